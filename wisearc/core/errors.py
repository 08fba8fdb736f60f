"""The tree of errors. Every one says which field, what value, and what is allowed.

WiseArcError
├── BadInput         a value that cannot be used
│   ├── UnknownName  a name that is not in the catalogue
│   └── OutOfRange   a number outside what is allowed
└── BadCatalogue     the product's own data is wrong
"""

from __future__ import annotations

from difflib import get_close_matches
from typing import Any


class WiseArcError(Exception):
    """Root of every error the product raises on purpose."""


class BadInput(WiseArcError):
    """A value that cannot be used: which field, what it was, the rule it breaks.

    >>> str(BadInput("gap", "wide", "a length such as 0.2 mm"))
    'gap “wide”: a length such as 0.2 mm'
    """

    def __init__(self, field: str, value: Any, rule: str, nearest: str | None = None) -> None:
        self.field = field
        self.value = value
        self.rule = rule
        self.nearest = nearest
        super().__init__(field, value, rule)

    def __str__(self) -> str:
        shown = "nothing" if self.value is None or self.value == "" else f"“{self.value}”"
        return f"{self.field} {shown}: {self.rule}"


class UnknownName(BadInput):
    """A name outside the allowed ones; near ones are offered, never taken.

    >>> str(UnknownName("metal", "304l", ["304", "304L"]))
    'metal “304l”: must be one of 304, 304L. Did you mean 304L?'
    """

    def __init__(self, field: str, value: Any, allowed: list[str]) -> None:
        folded = {name.lower(): name for name in allowed}
        near = get_close_matches(str(value).lower(), folded, n=1, cutoff=0.6)
        nearest = folded[near[0]] if near else None
        rule = "must be one of " + ", ".join(allowed)
        if nearest:
            rule += f". Did you mean {nearest}?"
        super().__init__(field, value, rule, nearest)
        self.allowed = allowed


class OutOfRange(BadInput):
    """A number outside what is allowed.

    >>> str(OutOfRange("thickness_mm", 9, 0.3, 6, "mm"))
    'thickness_mm “9”: must be from 0.3 to 6 mm'
    """

    def __init__(self, field: str, value: Any, low: float, high: float, unit: str = "") -> None:
        self.low = low
        self.high = high
        super().__init__(field, value, f"must be from {low:g} to {high:g} {unit}".rstrip())


class BadCatalogue(WiseArcError):
    """A row of the product's own data that does not hold together."""
