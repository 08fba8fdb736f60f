"""Text of quantities and parsing of typed text, in both unit systems."""

from __future__ import annotations

from typing import Any

from wisearc.core.errors import InputError
from wisearc.core.quantities import UNIT_SYSTEMS, Quantity, get_typed_unit
from wisearc.core.typed_quantities import add_typed_unit, parse_quantity

from .approval import ApprovedCase

FIGURES = """
    0 0.001 0.049 0.1 0.5 0.8 0.95 0.994 0.996 1 1.2 1.58 1.65 1.96 2.04 2.36 2.44 3.2 4.94 4.99 5
    5.01 9.94 9.96 12.7 25.2 25.4 59.4 59.6 60.4 99.94 99.96 100 112 252 253.5 254 254.5 1450 8230
    -1.5 -0.0001 36.546 64.46 64.54 0.0449 0.0451
"""
VALUES = [float(figure) for figure in FIGURES.split()]


class Quantities(ApprovedCase):
    """A case is a kind of quantity, with typed texts or without."""

    name = "quantities"

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Format many values, or parse the typed texts."""
        if "texts" in case:
            return {text: _parse(text, case["kind"]) for text in case["texts"]}
        kind = case["kind"]
        shown = {
            habit: {f"{v:g}": Quantity(v, kind).text(habit).replace(" ", "_") for v in VALUES}
            for habit in UNIT_SYSTEMS
        }
        return {"shown": shown, "units": [get_typed_unit(kind, habit) for habit in UNIT_SYSTEMS]}

    def test_quantities_are_as_approved(self) -> None:
        """Changes in a text are detected."""
        self.check()


def _parse(text: str, kind: str) -> Any:
    """Parse a text in both unit systems."""
    found: list[Any] = []
    for habit in UNIT_SYSTEMS:
        try:
            found.append(parse_quantity(text, kind, "value", habit))
        except InputError as problem:
            found.append(f"refused_{problem.rule}".replace(" ", "_"))
        found.append(add_typed_unit(text, kind, habit).replace(" ", "_"))
    return found
