"""Declared fields of documents, forms and files: kinds, limits, defaults, quantities."""

from __future__ import annotations

import importlib
from typing import Any

from msgspec import NODEFAULT

from wisearc.core.schema.entries import Entry, read_entries
from wisearc.core.schema.figures import list_figures

from .approval import ApprovedCase

LIMITS = ("kind", "usual", "required", "low", "high", "most", "unit", "quantity", "sizes")


class Declarations(ApprovedCase):
    """A case is a type, "MODULE:NAME"."""

    name = "declarations"

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Return the declarations of each field."""
        module, _, name = case.partition(":")
        of = getattr(importlib.import_module(module), name)
        names, values = of.__struct_fields__, of.__struct_defaults__
        defaults = dict(zip(names[len(names) - len(values) :], values, strict=True))
        return {
            "entries": {key: _get_limits(entry) for key, entry in read_entries(of).items()},
            "figures": {
                key: (figure.quantity, figure.digits, figure.pin, figure.band)
                for key, figure in list_figures(of).items()
            },
            "defaults": {
                key: value
                for key, value in defaults.items()
                if value is not NODEFAULT and isinstance(value, str | int | float | None)
            },
        }

    def test_declarations_are_as_approved(self) -> None:
        """Changes of a limit or a default are detected."""
        self.check()


def _get_limits(entry: Entry) -> dict[str, Any]:
    """Return the limits of an entry."""
    return {key: getattr(entry, key) for key in LIMITS if hasattr(entry, key)}
