"""Phases of weld metals and temperatures behind the arc, over grids."""

from __future__ import annotations

from typing import Any

from wisearc.core.physics.chemistry import (
    BY_DESIGN,
    calculate_ferrite_factor,
    find_phases,
    get_martensite_margin,
    is_fully_ferritic,
    judge_analysis,
)
from wisearc.core.physics.heat_field import (
    Field,
    glow_after_stop_s,
    running_c,
    stopped_c,
    tails_mm,
    wait_below_s,
)

from .approval import ApprovedCase


class Physics(ApprovedCase):
    """A case has the elements of a weld metal without chromium and nickel, or a heat field."""

    name = "physics"

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Calculate the phases over chromium and nickel, or temperatures and times of the field."""
        return (
            _calculate_heat(Field(**case["field"])) if "field" in case else _calculate_phases(case)
        )

    def test_physics_are_as_approved(self) -> None:
        """Changes in a region or a temperature are detected."""
        self.check()


def _calculate_heat(field: Field) -> Any:
    """Calculate temperatures and times of a heat field."""
    tails = tails_mm(field, (450.0, 900.0))
    stopped = stopped_c(field, 2.0, 30.0)
    return {
        "running_c": [running_c(field, mm) for mm in (0.6, 2, 5, 12, 40)],
        "stopped_c": [stopped(mm) for mm in (0.5, 3, 9, 20)],
        "tails_mm": tails,
        "glow_s": [glow_after_stop_s(field, 450.0, tails[0]), glow_after_stop_s(field, 900, 0.0)],
        "wait_s": [
            wait_below_s(field, 150.0, 100.0),
            wait_below_s(field, 60.0, None),
            wait_below_s(field, 100.0, 20.0, 120.0),
        ],
    }


def _calculate_phases(elements: dict[str, float]) -> Any:
    """Calculate the phases over a grid, and the properties of some weld metals."""
    rows, judged = {}, []
    for ni in range(0, 54, 1):
        metals = [{**elements, "Ni": ni / 2, "Cr": cr / 2} for cr in range(14, 62)]
        short = [find_phases(m).replace("and ", "") for m in metals]
        letters = ["".join(word[0] for word in phase.split()) for phase in short]
        rows[f"{ni / 2:g}"] = "-".join(letters)
        judged += [
            [
                judge_analysis(m, design),
                get_martensite_margin(m),
                calculate_ferrite_factor(m),
                is_fully_ferritic(m),
            ]
            for m in metals[:: 11 + ni % 3]
            for design in ("", *(BY_DESIGN if ni % 12 == 0 else ()))
        ]
    return {"rows": rows, "judged": judged[::3]}
