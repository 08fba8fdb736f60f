"""The form of a purge request: its fields, and the parser of typed text."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec.structs import replace

from ..core.errors import InputError
from ..core.physics.purge import SHAPES, PurgeRequest, make_purging
from ..core.plan.plan import Plan
from ..core.schema.entries import read_entries
from ..services.purge.purge_forecast import build_ask
from .fields import Field, build_field, parse_typed

# The fields for any shape.
ALWAYS = ("flow_l_min", "weld_l_min", "vent_mm", "gap_mm", "target_ppm", "lag_s")


def read_ask(plan: Plan, values: Mapping[str, str], units: str) -> PurgeRequest:
    """Return the purge request of a plan with typed changes.

    Args:
        plan: The plan.
        values: The typed keys of an address.
        units: Unit system of numbers without unit.

    Raises:
        InputError: An entry is wrong.
    """
    data = build_ask(plan)
    for key, declared in read_entries(PurgeRequest).items():
        if text := values.get(key, "").strip():
            data[key] = parse_typed(declared, text, units)
    return make_purging(data)


def purge_fields(
    ask: PurgeRequest, values: Mapping[str, str], fault: InputError | None, units: str
) -> tuple[Field, ...]:
    """Return the fields of a purge.

    Args:
        ask: The request.
        values: The typed text.
        fault: The error, or None.
        units: Unit system.
    """
    typed = {key: text for key, text in values.items() if text} if fault else {}
    shape = typed.get("shape", ask.shape)
    fields = []
    for key in ("shape", *SHAPES[shape if shape in SHAPES else ask.shape].fields, *ALWAYS):
        field = build_field(key, read_entries(PurgeRequest)[key], getattr(ask, key), units)
        wrong = fault.beside(units) if fault is not None and fault.field == key else ""
        value = typed.get(key, field.value)
        fields.append(replace(field, value=value, error=wrong, required=True, prefix="p-"))
    return tuple(fields)
