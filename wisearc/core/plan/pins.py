"""Pins: answers set by hand. What can be set stands on the figures of the choices; here all of them
together.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from ..errors import InputError
from ..quantities import get_typed_unit
from ..reasons import Choice
from ..schema import checks
from ..schema.figures import ByHand, list_figures
from .arc.current import Current
from .arc.pulse import Pulse
from .filler_metal.filler import Filler
from .preparation.tacks import Tacks
from .shielding.back import Back
from .shielding.gas import Gas
from .torch.torch import Torch
from .torch.tungsten import Tungsten

CHOICES: tuple[type[Choice], ...] = (Filler, Current, Pulse, Tungsten, Torch, Gas, Back, Tacks)


class Pin(Struct, frozen=True):
    """What can be set by hand: its limits or allowed values, the answer it belongs to, its label
    and quantity.
    """

    by_hand: ByHand
    choice: type[Choice]
    path: tuple[str, ...]
    label: str
    quantity: str

    @property
    def answer(self) -> str:
        return self.choice.answer

    def now(self, plan: object) -> Any:
        """What a plan has for it, or None where the plan has no such figure."""
        value: Any = getattr(plan, self.choice.part)
        for step in self.path:
            value = None if value is None else getattr(value, step)
        return value


def _collect_pins() -> dict[str, Pin]:
    found: dict[str, Pin] = {}
    for choice in CHOICES:
        _collect(choice, choice, (), found)
    return found


def _collect(
    choice: type[Choice], holder: type, path: tuple[str, ...], found: dict[str, Pin]
) -> None:
    for key, declared in list_figures(holder).items():
        if declared.holds:
            _collect(choice, declared.holds, (*path, key), found)
        if declared.pin:
            label = declared.pin.label or declared.label
            # what a hand sets is shown as finely as it was typed
            quantity = "length" if declared.quantity == "size" else declared.quantity
            found[declared.pin.key] = Pin(declared.pin, choice, (*path, key), label, quantity)


PINS: Mapping[str, Pin] = _collect_pins()


def check_pins(raw: Any) -> dict[str, Any]:
    """Check pins. Parameters: raw, {name: value}. Raises InputError by name.

    >>> check_pins({"cup": 6})
    {'cup': 6}
    """
    if not isinstance(raw, Mapping):
        raise InputError("pins", raw, 'must be an object of pinned answers, such as {"cup": 6}')
    return {key: _check_pin(checks.name("pins", key, PINS), value) for key, value in raw.items()}


def _check_pin(key: str, value: Any) -> Any:
    pin, where = PINS[key], f"pins.{key}"
    limits = pin.by_hand
    if not limits.allowed:
        return checks.check_number(
            where, value, limits.low, limits.high, get_typed_unit(pin.quantity)
        )
    if isinstance(value, bool) or value not in limits.allowed:
        raise InputError(
            where, value, "must be one of " + ", ".join(str(v) for v in limits.allowed)
        )
    return next(v for v in limits.allowed if v == value)
