"""Heavy tests run without the coverage tracer, which makes them several times slower; what they reach, others reach under it."""

from __future__ import annotations

import sys
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any


@contextmanager
def untraced() -> Iterator[None]:
    """Nothing within is traced."""
    was = sys.gettrace()
    sys.settrace(None)
    try:
        yield
    finally:
        sys.settrace(was)


class Untraced(unittest.TestCase):
    """A case whose tests are not traced."""

    def run(self, result: Any = None) -> Any:
        with untraced():
            return super().run(result)
