"""A cut as it is asked for on a page: its fields, and what was typed in them."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from ..core.errors import InputError, OutOfRange
from ..core.quantities import add_typed_unit, exact
from ..core.schema.entries import read_entries
from ..core.schema.json_types import Json
from ..core.templates.cut import KINDS, Cut, make_cut
from .fields import Field, build_field, parse_typed, value_text

# the address's key of each field of a cut
KEYS = {key: key.removesuffix("_mm").removesuffix("_deg") for key in read_entries(Cut)}
START = {"kind": "cope", "branch": "25 mm", "wall": "1.2 mm", "run": "51 mm", "angle": "45"}
ON_RUN = ("run_mm", "offset_mm")


def read_cut(given: Mapping[str, str], habit: str) -> Cut:
    """Parse the keys of an address into a cut.

    Args:
        given: The keys of the address. Lengths are text with any unit.
        habit: The unit of a length without one, "mm" or "in".

    Raises:
        InputError: A value is not allowed. The error names the key of `Cut`.
    """
    on_run = KINDS.get(given.get("kind", "cope"), KINDS["cope"]).on_run
    data: dict[str, Json] = {}
    for key, declared in read_entries(Cut).items():
        text = given.get(KEYS[key], "").strip()
        if text and (on_run or key not in ON_RUN):
            data[key] = parse_typed(declared, text, habit)
    return make_cut(data)


def add_units(given: Mapping[str, str], habit: str) -> dict[str, str]:
    """An address's keys with a unit to each bare length, so that they mean the same in either
    habit.
    """
    table = {KEYS[key]: declared for key, declared in read_entries(Cut).items()}
    found = {}
    for key, text in given.items():
        declared = table.get(key)
        found[key] = (
            add_typed_unit(text, "length", habit)
            if declared and declared.quantity == "length" and text.strip()
            else text
        )
    return found


def link_of(cut: Cut, given: Mapping[str, str]) -> list[tuple[str, str]]:
    """The pairs of a cut's address, as they were typed; what is as usual is left out."""
    return [
        (KEYS[key], given[KEYS[key]])
        for key in read_entries(Cut)
        if given.get(KEYS[key], "").strip() and not (key in ON_RUN and not cut.of.on_run)
    ]


def cut_fields(
    cut: Cut,
    typed: Mapping[str, str],
    taken: Mapping[str, str],
    fault: InputError | None,
    habit: str,
) -> tuple[Field, ...]:
    """The fields of a cut. Parameters: typed, what was typed where something was refused; taken,
    the keys that the cut is of; fault, what was refused.
    """
    kind = KINDS.get(typed.get("kind", ""), cut.of)
    found = []
    for key, declared in read_entries(Cut).items():
        if key == "kind" or (key in ON_RUN and not kind.on_run):
            continue
        name, value = KEYS[key], getattr(cut, key)
        one = build_field(name, declared, value, habit)
        if one.options:
            one = replace(one, kind="chips")
        else:
            shown = _format_typed(taken.get(name, ""), value, declared.quantity, habit)
            one = replace(one, value=typed.get(name, shown))
        if key == "angle_deg":
            one = replace(one, label=f"{kind.angle[0].upper()}{kind.angle[1:]}")
        if not kind.on_run and key == "branch_mm":
            one = replace(one, label="Tube diameter")
        if fault is not None and fault.field == key:
            one = replace(one, error=format_sentence(fault, habit))
        found.append(one)
    if fault is not None and not any(f.error for f in found):
        found[0] = replace(found[0], error=fault.sentence)
    return tuple(found)


def _format_typed(text: str, value: object, quantity: str, habit: str) -> str:
    """A figure as its field shows it: as it was typed, but for a length that was typed in the other
    habit's unit, or not at all.
    """
    if quantity != "length" or value is None:
        return text or (f"{value:g}" if isinstance(value, float) else "")
    others = ("mm", "cm") if habit == "in" else ("in", "inch", "inches", '"', "thou")
    return value_text(value, quantity, habit) if not text or text.endswith(others) else text


def format_sentence(fault: InputError, habit: str) -> str:
    """Why a figure was refused, its limits in a habit."""
    if isinstance(fault, OutOfRange) and fault.field.endswith("_mm"):
        return f"Enter {exact(fault.low).text(habit)} to {exact(fault.high).text(habit)}."
    return fault.beside(habit)
