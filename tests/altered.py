"""The product with other tables than its own: rows added, or gone."""

from __future__ import annotations

import copy
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import lru_cache
from typing import Any
from unittest import mock

from wisearc.core import catalogue

Tables = dict[str, Any]
_Cached = type(lru_cache(lambda: None))


def forget() -> None:
    """Forget everything that was made of the tables."""
    for name, module in list(sys.modules.items()):
        if name.startswith("wisearc."):
            for value in vars(module).values():
                if isinstance(value, _Cached):
                    value.cache_clear()


@contextmanager
def altered(**changes: Callable[[Tables], None]) -> Iterator[None]:
    """Tables by name, each changed by a function that is given a copy of it."""
    own = catalogue._read_table

    def table(name: str) -> Tables:
        found = copy.deepcopy(getattr(own, "__wrapped__", own)(name))
        if name in changes:
            changes[name](found)
        return found

    with mock.patch.object(catalogue, "_read_table", table):
        forget()
        try:
            yield
        finally:
            forget()
    forget()


def emptied(table: Tables) -> None:
    """No row is left in any section of a table."""
    for value in table.values():
        if isinstance(value, dict | list):
            value.clear()
