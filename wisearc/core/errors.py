"""The errors of the core. Each names the field, the value and the allowed values.

WiseArcError
├── InputError       the value of a field is not allowed
│   ├── UnknownName  the name is not in the catalogue
│   └── OutOfRange   the number is outside the allowed range
└── CatalogueError   a catalogue file is wrong
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Protocol


def format_limits(low: float, high: float, unit: str = "") -> str:
    """Return a range in words, with the unit.

    Args:
        low: Minimum.
        high: Maximum.
        unit: Unit, or "".

    >>> format_limits(20, 90, "°"), format_limits(0.3, 6, "mm"), format_limits(1, 9)
    ('from 20° to 90°', 'from 0.3 to 6 mm', 'from 1 to 9')
    """
    if unit == "°":
        return f"from {low:g}° to {high:g}°"
    return f"from {low:g} to {high:g} {unit}".rstrip()


class WiseArcError(Exception):
    """Root of every error that Wise Arc raises deliberately."""


MAX_SHOWN_LENGTH = 60
_MAX_BITS = 60


def shorten(value: Any) -> str:
    """Return a value as an error quotes it, at most one line long.

    >>> shorten("x" * 100)[-3:], shorten([1, 2]), shorten({}), shorten(10**400)
    ('xx…', 'a list of 2', 'an object', 'a very long number')
    """
    if isinstance(value, Mapping):
        return "an object"
    if isinstance(value, list | tuple):
        return f"a list of {len(value)}"
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, int) and value.bit_length() > _MAX_BITS:
        return "a very long number"
    text = "".join(c if c.isprintable() else " " for c in str(value)[: MAX_SHOWN_LENGTH + 1])
    return text if len(text) <= MAX_SHOWN_LENGTH else text[:MAX_SHOWN_LENGTH] + "…"


class Rule(Protocol):
    """A rule whose figures can be shown in both unit systems."""

    def text(self, units: str = "mm") -> str:
        """Return the rule.

        Args:
            units: Unit system, "mm" or "in".
        """


# Names of fields on screen, where the key of the field is no English noun.
_FIELD_LABELS = {
    "cuts": "cut list",
    "holes": "hole list",
    "of": "joint",
    "photographs": "photo",
    "pin": "PIN",
    "what": "item",
    "when": "date",
    "who": "initials",
}
_PLURAL_LABELS = {"initials"}


def _end_sentence(text: str) -> str:
    return text if text.endswith((".", "?", "…")) else text + "."


class InputError(WiseArcError):
    """A value that cannot be used, with its field and the broken rule.

    A rule in lower case continues the sentence that the field starts. A rule with a capital letter
    is a sentence alone.

    >>> str(InputError("gap", "wide", "must be a length such as 0.2 mm"))
    'gap “wide” must be a length such as 0.2 mm'
    """

    def __init__(
        self, field: str, value: Any, rule: str | Rule, nearest: str | None = None
    ) -> None:
        """Create the error.

        Args:
            field: Key of the field.
            value: The wrong value.
            rule: The broken rule.
            nearest: The nearest allowed value, or None.
        """
        self.field = field
        self.value = value
        self.rule = rule if isinstance(rule, str) else rule.text("mm")
        self.nearest = nearest
        self._said = rule
        super().__init__(field, value, self.rule)

    def rule_in(self, units: str) -> str:
        """Return the rule with its figures in a unit system."""
        return self._said if isinstance(self._said, str) else self._said.text(units)

    def beside(self, units: str = "mm") -> str:
        """Return the sentence next to the field, which shows name and value already.

        >>> InputError("gap", "wide", "must be a length").beside()
        'This value must be a length.'
        >>> InputError("pin", None, "Wrong PIN").beside()
        'Wrong PIN.'
        """
        text = self.rule_in(units)
        return _end_sentence(text if text[:1].isupper() else f"This value {text}")

    def describe_value(self, units: str = "mm") -> str:
        """Return the sentence next to the field, with the typed value.

        >>> InputError("gap", "wide", "must be a length").describe_value()
        '“wide” must be a length.'
        """
        text = self.rule_in(units)
        if self.value is None or self.value == "" or text[:1].isupper():
            return self.beside(units)
        return _end_sentence(f"“{shorten(self.value)}” {text}")

    def __str__(self) -> str:
        """Return the error with its field and value."""
        return self._describe(shorten(self.field))

    @property
    def sentence(self) -> str:
        """The error as a sentence for a page.

        >>> InputError("who", "", "is missing").sentence
        'Initials are missing.'
        """
        if self.rule[:1].isupper():
            return _end_sentence(self.rule)
        label = _FIELD_LABELS.get(self.field, shorten(self.field).replace("_", " "))
        text = self._describe(label)
        if label in _PLURAL_LABELS:
            text = text.replace(f"{label} is ", f"{label} are ", 1)
        return _end_sentence(f"{text[0].upper()}{text[1:]}")

    def _describe(self, field: str) -> str:
        if self.value is None or self.value == "":
            value = ""
        else:
            value = f" “{shorten(self.value)}”"
        mark = ":" if self.rule[:1].isupper() else ""
        return f"{field}{value}{mark} {self.rule}"


class UnknownName(InputError):
    """A name that is not allowed.

    The error suggests similar names and never uses one.

    >>> str(UnknownName("metal", "304l", ["304", "304L"]))
    'metal “304l” must be one of 304, 304L. Did you mean 304L?'
    """

    def __init__(self, field: str, value: Any, allowed: list[str]) -> None:
        """Create the error.

        Args:
            field: Key of the field.
            value: The wrong name.
            allowed: The allowed names.
        """
        folded = {name.lower(): name for name in allowed}
        nearest = None
        if isinstance(value, str) and len(value) <= MAX_SHOWN_LENGTH:
            from difflib import get_close_matches

            near = get_close_matches(value.lower(), folded, n=1, cutoff=0.6)
            nearest = folded[near[0]] if near else None
        rule = "must be one of " + ", ".join(allowed)
        if nearest:
            rule += f". Did you mean {nearest}?"
        super().__init__(field, value, rule, nearest)
        self.allowed = allowed


class OutOfRange(InputError):
    """A number outside the allowed range.

    >>> str(OutOfRange("thickness_mm", 9, 0.3, 6, "mm"))
    'thickness_mm “9” must be from 0.3 to 6 mm'
    """

    def __init__(self, field: str, value: Any, low: float, high: float, unit: str = "") -> None:
        """Create the error.

        Args:
            field: Key of the field.
            value: The wrong number.
            low: Minimum.
            high: Maximum.
            unit: Unit of the limits.
        """
        self.low = low
        self.high = high
        super().__init__(field, value, f"must be {format_limits(low, high, unit)}")


class CatalogueError(WiseArcError):
    """An inconsistent row of the catalogue."""
