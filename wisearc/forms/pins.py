"""The fields in which an answer can be set by hand: what is set, and the plan's own."""

from __future__ import annotations

from typing import Any

from ..core.joint.joint import Joint
from ..core.plan.pins import PINS
from ..core.plan.plan import Plan
from ..core.quantities import Quantity, get_typed_unit
from ..core.schema.entries import read_entries
from .fields import Choice, Field, list_choices
from .joint_words import pin_shown


def pin_fields(joint: Joint, plan: Plan, habit: str) -> dict[str, list[Field]]:
    """The fields of every answer that can be set by hand, by answer."""
    fields: dict[str, list[Field]] = {}
    for key, declared in read_entries(Joint).items():
        if declared.answer:
            value, options = getattr(joint, key), list_choices(declared)
            typed = "" if value in (None, declared.usual) else value
            if options:
                options = tuple(one for one in options if one.value != declared.usual)
            elif typed:
                typed = Quantity(value, declared.quantity).text(habit)
            own = "" if options else _describe_planned(key, plan, habit)
            found = _pin_field(key, declared.label, typed, own, options)
            fields.setdefault(declared.answer, []).append(found)
    for name, pin in PINS.items():
        # an arc that is not pulsed has a peak, its steady current, but none that can be set
        now = None if pin.answer == "pulse" and not plan.pulse.pulsed else pin.now(plan)
        if now is None and name not in joint.pins:
            continue
        allowed = pin.by_hand.allowed
        options = tuple(Choice(str(v), _format_option(v, pin.quantity, habit)) for v in allowed)
        unit = "" if options else get_typed_unit(pin.quantity, habit)
        label = f"{pin.label} ({unit})" if unit else pin.label
        typed, own = pin_shown(joint.pins.get(name, None), pin, habit), pin_shown(now, pin, habit)
        own = next((one.label for one in options if one.value == own), own)
        found = _pin_field(f"pins.{name}", label, typed, own, options)
        fields.setdefault(pin.answer, []).append(found)
    return fields


def _pin_field(key: str, label: str, typed: str, own: str, options: tuple[Choice, ...]) -> Field:
    blank = f"from the plan: {own}" if own and not typed else "from the plan"
    kind = "pick" if options else "figure"
    return Field(key, label, typed, kind, options=options, own=own, blank=blank, prefix="hand-")


def _format_option(value: Any, quantity: str, habit: str) -> str:
    """An allowed value in words: a figure with its unit, a name as it reads."""
    if isinstance(value, str):
        return value.replace("-", " ")
    return (
        Quantity(value, quantity).text(habit) if quantity not in ("word", "count") else f"{value:g}"
    )


def _describe_planned(key: str, plan: Plan, habit: str) -> str:
    return Quantity(plan.travel.speed_mm_s, "speed").text(habit) if key == "travel_mm_s" else ""
