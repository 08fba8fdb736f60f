"""A queue for slow requests, so that other pages stay fast."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager

from werkzeug.exceptions import ServiceUnavailable

# Estimates: one slow request for each core of a small computer. Eight threads stay free for pages.
MAX_RUNNING, MAX_WAITING, MAX_WAIT_S = 2, 6, 15.0
BUSY = (
    "Not saved: the server is busy. Wait a moment, go back, then try again. Your entries are still"
    " on the page."
)


class WorkQueue:
    """Runs a few slow requests at the same time. Some others wait."""

    def __init__(self) -> None:
        """Create an empty queue."""
        self._active = threading.BoundedSemaphore(MAX_RUNNING)
        self._queued = threading.BoundedSemaphore(MAX_RUNNING + MAX_WAITING)

    @contextmanager
    def wait_for_slot(self) -> Iterator[None]:
        """Wait until a slot is free, and use it.

        Raises:
            ServiceUnavailable: The queue is full.
        """
        if not self._queued.acquire(blocking=False):
            raise ServiceUnavailable(BUSY)
        try:
            if not self._active.acquire(timeout=MAX_WAIT_S):
                raise ServiceUnavailable(BUSY)
            try:
                yield
            finally:
                self._active.release()
        finally:
            self._queued.release()
