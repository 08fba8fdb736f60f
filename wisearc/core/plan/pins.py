"""Manual answers.

The figures of the choices declare them, and this module combines them all.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from ..errors import InputError
from ..quantities import get_typed_unit
from ..reasons import Choice
from ..schema import checks
from ..schema.figures import Override, list_figures
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
    """A possible manual answer: limits or allowed values, the answer, its label and quantity."""

    by_hand: Override
    choice: type[Choice]
    path: tuple[str, ...]
    label: str
    quantity: str

    @property
    def answer(self) -> str:
        """Return the key of the answer."""
        return self.choice.answer

    def now(self, plan: object) -> Any:
        """Return the present value in a plan, or None."""
        value: Any = getattr(plan, self.choice.part)
        for step in self.path:
            value = None if value is None else getattr(value, step)
        return value


def _collect_pins() -> dict[str, Pin]:
    pins: dict[str, Pin] = {}
    for choice in CHOICES:
        _collect(choice, choice, (), pins)
    return pins


def _collect(
    choice: type[Choice], holder: type, path: tuple[str, ...], pins: dict[str, Pin]
) -> None:
    for key, declared in list_figures(holder).items():
        if declared.holds:
            _collect(choice, declared.holds, (*path, key), pins)
        if declared.pin:
            label = declared.pin.label or declared.label
            # Manual values are shown with the precision of the typed text.
            quantity = "length" if declared.quantity == "size" else declared.quantity
            pins[declared.pin.key] = Pin(declared.pin, choice, (*path, key), label, quantity)


PINS: Mapping[str, Pin] = _collect_pins()


def check_pins(raw: Any) -> dict[str, Any]:
    """Check manual answers.

    Args:
        raw: Answers as {name: value}.

    Raises:
        InputError: A name or a value is wrong.

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
