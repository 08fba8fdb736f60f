"""Heavy tests without the coverage tracer, which makes them several times slower.

Other tests reach the same code with it.
"""

from __future__ import annotations

import sys
import threading
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any


@contextmanager
def untraced() -> Iterator[None]:
    """Switch the tracer off, also for new threads."""
    was, threads = sys.gettrace(), threading.gettrace()
    sys.settrace(None)
    threading.settrace(None)  # type: ignore[arg-type]
    try:
        yield
    finally:
        sys.settrace(was)
        threading.settrace(threads)  # type: ignore[arg-type]


class Untraced(unittest.TestCase):
    """A case whose tests are not traced."""

    def run(self, result: Any = None) -> Any:
        with untraced():
            return super().run(result)
