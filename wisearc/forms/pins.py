"""The fields in which an answer can be set by hand: what is set, and the plan's own."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..core.joint.joint import Joint
from ..core.plan.pins import PINS
from ..core.plan.plan import Plan
from ..core.quantities import Quantity, unit_of
from ..core.schema.entries import entries
from .joint_words import pin_shown


@dataclass(frozen=True)
class PinField:
    """A field: its key, label with unit, what is set by hand, the plan's own, and its options where
    it has such, each with its words.
    """

    key: str
    label: str
    value: str
    own: str
    options: list[tuple[str, str]]

    @property
    def html_id(self) -> str:
        return "hand-" + self.key.replace(".", "-").replace("_", "-")


def pin_fields(joint: Joint, plan: Plan, habit: str) -> dict[str, list[PinField]]:
    """The fields of every answer that can be set by hand, by answer."""
    fields: dict[str, list[PinField]] = {}
    for key, declared in entries(Joint).items():
        if declared.answer and declared.kind == "name":
            value = getattr(joint, key)
            options = [
                (name, o.label) for name, o in declared.allowed().items() if name != declared.usual
            ]
            fields.setdefault(declared.answer, []).append(
                PinField(key, declared.label, "" if value == declared.usual else value, "", options)
            )
        elif declared.answer:
            value = getattr(joint, key)
            typed = "" if value is None else Quantity(value, declared.quantity).text(habit)
            fields.setdefault(declared.answer, []).append(
                PinField(key, declared.label, typed, _planned(key, plan, habit), [])
            )
    for name, pin in PINS.items():
        # an arc that is not pulsed has a peak, its steady current, but none that can be set
        now = None if pin.answer == "pulse" and not plan.pulse.pulsed else pin.now(plan)
        if now is None and name not in joint.pins:
            continue
        options = [(str(v), _option(v, pin.quantity, habit)) for v in pin.by_hand.allowed]
        unit = "" if options else unit_of(pin.quantity, habit)
        label = f"{pin.label} ({unit})" if unit else pin.label
        value, own = pin_shown(joint.pins.get(name), pin, habit), pin_shown(now, pin, habit)
        own = next((words for key, words in options if key == own), own)
        fields.setdefault(pin.answer, []).append(
            PinField(f"pins.{name}", label, value, own, options)
        )
    return fields


def _option(value: Any, quantity: str, habit: str) -> str:
    """An allowed value in words: a figure with its unit, a name as it reads."""
    if isinstance(value, str):
        return value.replace("-", " ")
    return (
        Quantity(value, quantity).text(habit) if quantity not in ("word", "count") else f"{value:g}"
    )


def _planned(key: str, plan: Plan, habit: str) -> str:
    return Quantity(plan.travel.speed_mm_s, "speed").text(habit) if key == "travel_mm_s" else ""
