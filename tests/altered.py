"""The product with changed catalogue tables: rows added, or removed."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import lru_cache
from typing import Any
from unittest import mock

from wisearc.core.catalogue import tables

Tables = dict[str, Any]
_Cached = type(lru_cache(lambda: None))


def forget() -> None:
    """Clear all caches of the tables."""
    for name, module in list(sys.modules.items()):
        if name.startswith("wisearc."):
            for value in vars(module).values():
                if isinstance(value, _Cached):
                    value.cache_clear()


@contextmanager
def altered(**changes: Callable[[Tables], None]) -> Iterator[None]:
    """Use tables with changes.

    Each function gets its table by name.
    """
    own = tables.parse_table

    def table(name: str) -> Tables:
        found = own(name)
        if name in changes:
            changes[name](found)
        return found

    with mock.patch.object(tables, "parse_table", table):
        forget()
        try:
            yield
        finally:
            forget()
    forget()


def emptied(table: Tables) -> None:
    """Remove all rows from the sections of a table."""
    for value in table.values():
        if isinstance(value, dict | list):
            value.clear()
