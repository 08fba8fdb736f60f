"""A purge as it is asked for on a page: its fields, and what was typed in them."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from ..core.errors import InputError
from ..core.physics.purge import SHAPES, Purging, make_purging
from ..core.plan.plan import Plan
from ..core.schema.entries import read_entries
from ..services.purge.purging import build_ask
from .fields import Field, build_field, parse_typed

# what is asked for whatever the shape is
ALWAYS = ("flow_l_min", "weld_l_min", "vent_mm", "gap_mm", "target_ppm", "lag_s")


def read_ask(plan: Plan, given: Mapping[str, str], habit: str) -> Purging:
    """What is asked for: a plan's own, with what an address says otherwise, as people type it.
    Raises InputError.
    """
    data = build_ask(plan)
    for key, declared in read_entries(Purging).items():
        if text := given.get(key, "").strip():
            data[key] = parse_typed(declared, text, habit)
    return make_purging(data)


def purge_fields(
    ask: Purging, given: Mapping[str, str], fault: InputError | None, habit: str
) -> tuple[Field, ...]:
    """The fields of a purge. Parameters: given, what was typed; fault, what of it was refused."""
    typed = {key: text for key, text in given.items() if text} if fault else {}
    shape = typed.get("shape", ask.shape)
    found = []
    for key in ("shape", *SHAPES[shape if shape in SHAPES else ask.shape].fields, *ALWAYS):
        one = build_field(key, read_entries(Purging)[key], getattr(ask, key), habit)
        wrong = fault.beside(habit) if fault is not None and fault.field == key else ""
        value = typed.get(key, one.value)
        found.append(replace(one, value=value, error=wrong, required=True, prefix="p-"))
    return tuple(found)
