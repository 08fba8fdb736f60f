"""The fields in which an answer can be set by hand: what is set, and the plan's own."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..core.joint import Joint
from ..core.pins import PINS, Pin
from ..core.plan import Plan
from ..core.quantities import Quantity, unit_of


@dataclass(frozen=True)
class PinField:
    """A field: its key, label with unit, what is set by hand, the plan's own, and its options where it has such."""

    key: str
    label: str
    value: str
    own: str
    options: list[str]

    @property
    def html_id(self) -> str:
        return self.key.replace(".", "-").replace("_", "-")


def pin_fields(joint: Joint, plan: Plan, habit: str) -> dict[str, list[PinField]]:
    """The fields of every answer that can be set by hand, by answer."""
    fields: dict[str, list[PinField]] = {}
    for name, pin in PINS.items():
        # an arc that is not pulsed has a peak, its steady current, but none that can be set
        now = None if pin.answer == "pulse" and not plan.pulse.pulsed else pin.now(plan)
        if now is None and name not in joint.pins:
            continue
        options = [str(v) for v in pin.by_hand.allowed]
        unit = "" if options else unit_of(pin.quantity, habit)
        label = f"{pin.label} ({unit})" if unit else pin.label
        value, own = _shown(joint.pins.get(name), pin, habit), _shown(now, pin, habit)
        fields.setdefault(pin.answer, []).append(PinField(f"pins.{name}", label, value, own, options))
    return fields


def _shown(value: Any, pin: Pin, habit: str) -> str:
    """A value as it is typed: without its unit."""
    if value is None:
        return ""
    return str(value) if pin.by_hand.allowed else Quantity(value, pin.quantity).number(habit)
