"""The declared fields of documents, forms and files: kinds, limits, usual values, quantities."""

from __future__ import annotations

import importlib
from dataclasses import MISSING, fields
from typing import Any

from wisearc.core.schema.entries import Entry, entries
from wisearc.core.schema.figures import figures

from .approval import ApprovedCase

LIMITS = ("kind", "usual", "required", "low", "high", "most", "unit", "quantity", "sizes")


class Declarations(ApprovedCase):
    """A case is a dataclass, "MODULE:NAME"."""

    name = "declarations"

    @classmethod
    def result(cls, case: Any) -> Any:
        """What each field declares."""
        module, _, name = case.partition(":")
        of = getattr(importlib.import_module(module), name)
        defaults = {one.name: one.default for one in fields(of) if one.default is not MISSING}
        return {
            "entries": {key: _limits(entry) for key, entry in entries(of).items()},
            "figures": {
                key: (figure.quantity, figure.digits, figure.pin, figure.band)
                for key, figure in figures(of).items()
            },
            "defaults": {
                key: value
                for key, value in defaults.items()
                if isinstance(value, str | int | float | None)
            },
        }

    def test_declarations_are_as_approved(self) -> None:
        """A limit or a usual value that changes is seen."""
        self.check()


def _limits(entry: Entry) -> dict[str, Any]:
    """What an entry allows."""
    return {key: getattr(entry, key) for key in LIMITS if hasattr(entry, key)}
