"""The declaration of a plan figure, once, on the field of the choice that decides it.

Plan data, schema, answer lines, comparison, overrides, ranges of a procedure and the run form use
it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import wraps
from inspect import get_annotations
from typing import Any, TypeVar

from msgspec import Struct
from msgspec.structs import replace

from ..quantities import Quantity

T = TypeVar("T", bound=Struct)
R = TypeVar("R")


def cache_by_type(make: Callable[[type], R]) -> Callable[[type], R]:
    """Cache the result of a function of a type."""
    known: dict[type, R] = {}

    @wraps(make)
    def read_for_type(of: type) -> R:
        if of not in known:
            known[of] = make(of)
        return known[of]

    return read_for_type


class Override(Struct, frozen=True):
    """The override of a figure: its key in `pins`, limits or allowed values, and label."""

    key: str
    low: float = 0.0
    high: float = 0.0
    allowed: tuple[Any, ...] = ()
    label: str = ""


class Band(Struct, frozen=True):
    """An allowed range of a procedure.

    Key, label, and the limits relative to the figure (None: open). `later`: older records lack it.
    `told_by`: the range of the machine setting that replaces it in the display.
    """

    key: str
    label: str
    low: float | None = None
    high: float | None = None
    later: bool = False
    told_by: str = ""


class Figure(Struct, frozen=True):
    """A figure: label, kind of quantity, saved decimals, and its uses beyond the plan data.

    `positive`: zero is refused because it is a divisor. `compared`: label in a comparison, or "".
    `part`: its part of the plan data, if different from its choice (".": the plan itself). `holds`:
    the type of figures in it.
    """

    label: str
    quantity: str = "word"
    digits: int | None = None
    positive: bool = False
    signed: bool = False
    pin: Override | None = None
    band: Band | None = None
    compared: str = ""
    part: str = ""
    holds: type | None = None


@cache_by_type
def read_declarations(of: type) -> Mapping[str, tuple[Any, ...]]:
    """Return the declarations of each field of a type, by field, in order.

    Its module must not postpone annotations, because Python would evaluate the text of each at
    start.
    """
    declarations: dict[str, tuple[Any, ...]] = {}
    for base in reversed(of.__mro__):
        for name, hint in get_annotations(base).items():
            if isinstance(hint, str) and "Annotated" in hint:
                raise TypeError(f"{of.__name__}.{name}: the module postpones its annotations")
            declarations[name] = getattr(hint, "__metadata__", ())
    return declarations


@cache_by_type
def list_figures(of: type) -> Mapping[str, Figure]:
    """Return the figures of a type by key, in order."""
    return {
        name: figure
        for name, declared in read_declarations(of).items()
        for figure in declared
        if isinstance(figure, Figure)
    }


def round_figures(value: T) -> T:
    """Return a struct with each figure rounded to its saved decimals.

    The display then equals the saved value.
    """
    changed: dict[str, Any] = {}
    for key, digits, holds, positive in _list_rounded(type(value)):
        old = getattr(value, key)
        if old is None:
            continue
        if isinstance(old, tuple):
            changed[key] = tuple(
                [round_figures(item) if holds else round(item, digits) for item in old]
            )
        else:
            changed[key] = round_figures(old) if holds else _round(old, digits, positive)
    return replace(value, **changed) if changed else value


def _round(value: float, digits: int | None, positive: bool) -> float:
    """Return a rounded figure.

    A figure that must be positive keeps two digits if it would become zero.
    """
    kept = round(value, digits)
    return float(f"{value:.2g}") if positive and not kept else kept


@cache_by_type
def _list_rounded(of: type) -> tuple[tuple[str, int | None, bool, bool], ...]:
    """Return the figures to round.

    Key, decimals, whether it contains figures, whether zero is refused.
    """
    figures = list_figures(of).items()
    return tuple(
        (k, f.digits, f.holds is not None, f.positive)
        for k, f in figures
        if f.digits is not None or f.holds
    )


def format_figure(value: object, key: str, units: str) -> str:
    """Return a figure of a struct as text, or an en dash.

    Args:
        value: The struct.
        key: The figure.
        units: Unit system, "mm" or "in".
    """
    got = getattr(value, key)
    return format_value(got, list_figures(type(value))[key].quantity, units)


def format_value(value: Any, quantity: str, units: str) -> str:
    """Return a value of a kind of quantity as text.

    Args:
        value: The value.
        quantity: The kind.
        units: Unit system.
    """
    if value is None:
        return "–"
    return str(value) if quantity == "word" else Quantity(value, quantity).text(units)


class _Display(dict[str, str]):
    def __init__(self, value: object, units: str) -> None:
        self.value, self.habit = value, units

    def __missing__(self, key: str) -> str:
        return format_figure(self.value, key, self.habit)


def fill_template(template: str, value: object, units: str) -> str:
    """Return a template filled with the figures of a struct: "{cup}, {bore_mm}".

    Args:
        template: The template.
        value: The struct.
        units: Unit system.
    """
    return template.format_map(_Display(value, units))
