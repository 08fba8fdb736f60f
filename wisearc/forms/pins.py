"""The fields for manual answers: the manual value, and that of the plan."""

from __future__ import annotations

from typing import Any

from ..core.joint.joint import Joint
from ..core.plan.pins import PINS
from ..core.plan.plan import Plan
from ..core.quantities import Quantity, get_typed_unit
from ..core.schema.entries import read_entries
from .fields import Choice, Field, list_choices
from .joint_fields import format_pin


def pin_fields(joint: Joint, plan: Plan, units: str) -> dict[str, list[Field]]:
    """Return the fields of every possible manual answer, by answer.

    Args:
        joint: The joint.
        plan: The plan.
        units: Unit system.
    """
    fields: dict[str, list[Field]] = {}
    for key, declared in read_entries(Joint).items():
        if declared.answer:
            value, options = getattr(joint, key), list_choices(declared)
            typed = "" if value in (None, declared.usual) else value
            if options:
                options = tuple(option for option in options if option.value != declared.usual)
            elif typed:
                typed = Quantity(value, declared.quantity).text(units)
            planned = "" if options else _describe_planned(key, plan, units)
            field = _pin_field(key, declared.label, typed, planned, options)
            fields.setdefault(declared.answer, []).append(field)
    for name, pin in PINS.items():
        # An unpulsed arc has a peak, its steady current, that cannot be set.
        now = None if pin.answer == "pulse" and not plan.pulse.pulsed else pin.now(plan)
        if now is None and name not in joint.pins:
            continue
        allowed = pin.by_hand.allowed
        options = tuple(Choice(str(v), _format_option(v, pin.quantity, units)) for v in allowed)
        unit = "" if options else get_typed_unit(pin.quantity, units)
        label = f"{pin.label} ({unit})" if unit else pin.label
        typed, planned = (
            format_pin(joint.pins.get(name, None), pin, units),
            format_pin(now, pin, units),
        )
        planned = next((option.label for option in options if option.value == planned), planned)
        field = _pin_field(f"pins.{name}", label, typed, planned, options)
        fields.setdefault(pin.answer, []).append(field)
    return fields


def _pin_field(
    key: str, label: str, typed: str, planned: str, options: tuple[Choice, ...]
) -> Field:
    blank = f"from the plan: {planned}" if planned and not typed else "from the plan"
    kind = "pick" if options else "figure"
    return Field(key, label, typed, kind, options=options, own=planned, blank=blank, prefix="hand-")


def _format_option(value: Any, quantity: str, units: str) -> str:
    """Return an allowed value as text: a figure with its unit, or a label."""
    if isinstance(value, str):
        return value.replace("-", " ")
    return (
        Quantity(value, quantity).text(units) if quantity not in ("word", "count") else f"{value:g}"
    )


def _describe_planned(key: str, plan: Plan, units: str) -> str:
    return Quantity(plan.travel.speed_mm_s, "speed").text(units) if key == "travel_mm_s" else ""
