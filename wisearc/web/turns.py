"""Turns: heavy work a few at a time, some more wait, and who comes beyond them is told to come
again.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager

from werkzeug.exceptions import ServiceUnavailable

# so many at once, as many as there are cores on a small machine; so many more wait for their turn,
# which comes, and who comes beyond them is told to come again. Half of the threads are left for
# pages. Estimates
AT_ONCE, MOST_WAITING, WAIT_S = 2, 6, 15.0
BUSY = (
    "Too much is asked for at once just now, and nothing was kept. Wait a moment, go back and send"
    " it again; what you typed is there."
)


class Turns:
    """The turns of an application's heavy work."""

    def __init__(self) -> None:
        self._turns = threading.BoundedSemaphore(AT_ONCE)
        self._places = threading.BoundedSemaphore(AT_ONCE + MOST_WAITING)

    @contextmanager
    def turn(self) -> Iterator[None]:
        """Wait for one's turn, and have it. Raises ServiceUnavailable where too many wait."""
        if not self._places.acquire(blocking=False):
            raise ServiceUnavailable(BUSY)
        try:
            if not self._turns.acquire(timeout=WAIT_S):
                raise ServiceUnavailable(BUSY)
            try:
                yield
            finally:
                self._turns.release()
        finally:
            self._places.release()
