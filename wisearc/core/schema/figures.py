"""A figure of the plan, declared once, on the field of the choice that decides it.

What stands in the declaration is all there is to know of it: the plan's data and schema, the lines
of the answers, comparison, what can be set by hand, the bands a procedure holds within and the form
of a run are read from it.
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
    """Keeps what a function makes of a type, so that it is made once."""
    known: dict[type, R] = {}

    @wraps(make)
    def of_type(of: type) -> R:
        if of not in known:
            known[of] = make(of)
        return known[of]

    return of_type


class ByHand(Struct, frozen=True):
    """How a figure can be set by hand: its key in a joint's `pins`, limits or allowed values, a
    label of its own.
    """

    key: str
    low: float = 0.0
    high: float = 0.0
    allowed: tuple[Any, ...] = ()
    label: str = ""


class Band(Struct, frozen=True):
    """A band a procedure holds within: its key and label, and what of the figure each end is (None:
    open).

    later: records were kept before there was such a band, and have none. told_by: the band that
    says the same in what is set on the machine, and is shown for it.
    """

    key: str
    label: str
    low: float | None = None
    high: float | None = None
    later: bool = False
    told_by: str = ""


class Figure(Struct, frozen=True):
    """What a figure is: label, kind of quantity, decimals kept, and the faces it has beyond the
    plan's data.

    `positive`: nought is refused, for something is divided by it. `compared`: its label in a
    comparison, or "". `part`: the part of the plan's data it stands in, where that is not its
    choice's own ("." : the plan itself). `holds`: the type of figures that it, or each of it,
    is.
    """

    label: str
    quantity: str = "word"
    digits: int | None = None
    positive: bool = False
    signed: bool = False
    pin: ByHand | None = None
    band: Band | None = None
    compared: str = ""
    part: str = ""
    holds: type | None = None


@cache_by_type
def read_declarations(of: type) -> Mapping[str, tuple[Any, ...]]:
    """What the annotation of each field of a type declares, by field, in order. Its module must not
    postpone annotations: Python would evaluate the text of each one at a start.
    """
    found: dict[str, tuple[Any, ...]] = {}
    for base in reversed(of.__mro__):
        for name, hint in get_annotations(base).items():
            if isinstance(hint, str) and "Annotated" in hint:
                raise TypeError(f"{of.__name__}.{name}: the module postpones its annotations")
            found[name] = getattr(hint, "__metadata__", ())
    return found


@cache_by_type
def list_figures(of: type) -> Mapping[str, Figure]:
    """The figures that a type declares, by key, in order."""
    return {
        name: one
        for name, declared in read_declarations(of).items()
        for one in declared
        if isinstance(one, Figure)
    }


def round_figures(value: T) -> T:
    """A struct of figures with each rounded to the decimals it is kept with, so that what is
    shown is what is kept.
    """
    changed: dict[str, Any] = {}
    for key, digits, holds, positive in _list_rounded(type(value)):
        old = getattr(value, key)
        if old is None:
            continue
        if isinstance(old, tuple):
            changed[key] = tuple(
                [round_figures(one) if holds else round(one, digits) for one in old]
            )
        else:
            changed[key] = round_figures(old) if holds else _round(old, digits, positive)
    return replace(value, **changed) if changed else value


def _round(value: float, digits: int | None, positive: bool) -> float:
    """A figure as it is kept: one whose nought is refused keeps two figures where it would come to
    that.
    """
    kept = round(value, digits)
    return float(f"{value:.2g}") if positive and not kept else kept


@cache_by_type
def _list_rounded(of: type) -> tuple[tuple[str, int | None, bool, bool], ...]:
    """The figures that are rounded or hold such as are: key, decimals, whether it holds figures,
    whether nought is refused.
    """
    own = list_figures(of).items()
    return tuple(
        (k, f.digits, f.holds is not None, f.positive)
        for k, f in own
        if f.digits is not None or f.holds
    )


def format_figure(value: object, key: str, habit: str) -> str:
    """A figure of a struct in words, in the habit "mm" or "in"; an en dash where it has none."""
    got = getattr(value, key)
    return format_value(got, list_figures(type(value))[key].quantity, habit)


def format_value(value: Any, quantity: str, habit: str) -> str:
    """A value of a kind of quantity in words."""
    if value is None:
        return "–"
    return str(value) if quantity == "word" else Quantity(value, quantity).text(habit)


class _Shown(dict[str, str]):
    def __init__(self, value: object, habit: str) -> None:
        self.value, self.habit = value, habit

    def __missing__(self, key: str) -> str:
        return format_figure(self.value, key, self.habit)


def fill_template(template: str, value: object, habit: str) -> str:
    """A template with the figures of a struct put in, each as its declaration says: "{cup},
    {bore_mm}".
    """
    return template.format_map(_Shown(value, habit))
