"""The form of a cut: its fields, and the parser of typed text."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from ..core.errors import InputError, OutOfRange
from ..core.quantities import exact
from ..core.schema.entries import read_entries
from ..core.schema.json_types import Json
from ..core.templates.cut import KINDS, Cut, make_cut
from ..core.typed_quantities import add_typed_unit
from .fields import Field, build_field, parse_typed, value_text

# The address key of each field of a cut.
KEYS = {key: key.removesuffix("_mm").removesuffix("_deg") for key in read_entries(Cut)}
START = {"kind": "cope", "branch": "25 mm", "wall": "1.2 mm", "run": "51 mm", "angle": "45"}
ON_RUN = ("run_mm", "offset_mm")


def read_cut(values: Mapping[str, str], units: str) -> Cut:
    """Parse the keys of an address into a cut.

    Args:
        values: The keys of the address. Lengths are text with any unit.
        units: The unit of a length without one, "mm" or "in".

    Raises:
        InputError: A value is not allowed. The error names the key of `Cut`.
    """
    on_run = KINDS.get(values.get("kind", "cope"), KINDS["cope"]).on_run
    data: dict[str, Json] = {}
    for key, declared in read_entries(Cut).items():
        text = values.get(KEYS[key], "").strip()
        if text and (on_run or key not in ON_RUN):
            data[key] = parse_typed(declared, text, units)
    return make_cut(data)


def add_units(values: Mapping[str, str], units: str) -> dict[str, str]:
    """Return the keys of an address with a unit for each length.

    They then do not depend on the unit system.

    Args:
        values: The keys.
        units: Unit system.
    """
    table = {KEYS[key]: declared for key, declared in read_entries(Cut).items()}
    completed = {}
    for key, text in values.items():
        declared = table.get(key)
        completed[key] = (
            add_typed_unit(text, "length", units)
            if declared and declared.quantity == "length" and text.strip()
            else text
        )
    return completed


def build_link(cut: Cut, values: Mapping[str, str]) -> list[tuple[str, str]]:
    """Return the address of a cut as typed pairs, without defaults.

    Args:
        cut: The cut.
        values: The typed keys.
    """
    return [
        (KEYS[key], values[KEYS[key]])
        for key in read_entries(Cut)
        if values.get(KEYS[key], "").strip() and not (key in ON_RUN and not cut.of.on_run)
    ]


def cut_fields(
    cut: Cut,
    typed: Mapping[str, str],
    taken: Mapping[str, str],
    fault: InputError | None,
    units: str,
) -> tuple[Field, ...]:
    """Return the fields of a cut.

    Args:
        cut: The cut.
        typed: The typed text after an error.
        taken: The keys of the cut.
        fault: The error, or None.
        units: Unit system.
    """
    kind = KINDS.get(typed.get("kind", ""), cut.of)
    fields = []
    for key, declared in read_entries(Cut).items():
        if key == "kind" or (key in ON_RUN and not kind.on_run):
            continue
        name, value = KEYS[key], getattr(cut, key)
        field = build_field(name, declared, value, units)
        if field.options:
            field = replace(field, kind="chips")
        else:
            displayed = _format_typed(taken.get(name, ""), value, declared.quantity, units)
            field = replace(field, value=typed.get(name, displayed))
        if key == "angle_deg":
            field = replace(field, label=f"{kind.angle[0].upper()}{kind.angle[1:]}")
        if not kind.on_run and key == "branch_mm":
            field = replace(field, label="Tube diameter")
        if fault is not None and fault.field == key:
            field = replace(field, error=format_sentence(fault, units))
        fields.append(field)
    if fault is not None and not any(f.error for f in fields):
        fields[0] = replace(fields[0], error=fault.sentence)
    return tuple(fields)


def _format_typed(text: str, value: object, quantity: str, units: str) -> str:
    """Return a figure for its field.

    As typed, except a length in the other unit system or without text.
    """
    if quantity != "length" or value is None:
        return text or (f"{value:g}" if isinstance(value, float) else "")
    others = ("mm", "cm") if units == "in" else ("in", "inch", "inches", '"', "thou")
    return value_text(value, quantity, units) if not text or text.endswith(others) else text


def format_sentence(fault: InputError, units: str) -> str:
    """Return the error text with limits in a unit system.

    Args:
        fault: The error.
        units: Unit system.
    """
    if isinstance(fault, OutOfRange) and fault.field.endswith("_mm"):
        return f"Enter {exact(fault.low).text(units)} to {exact(fault.high).text(units)}."
    return fault.beside(units)
