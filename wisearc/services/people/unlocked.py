"""Who typed a lead's PIN, and for how long that counts: kept by the server, so that what a browser
sends of an earlier time opens nothing.
"""

from __future__ import annotations

import secrets
import threading
import time
from collections import OrderedDict
from collections.abc import Callable

# a PIN counts for so long
UNLOCKED_S = 900.0
MOST_KEPT = 200


class Unlocked:
    """The locks that stand open, by a key that only the browser that opened one has. Parameters:
    clock, s, one that is not set by anyone.
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock, self._guard = clock, threading.Lock()
        self._open: OrderedDict[str, tuple[float, str]] = OrderedDict()

    def begin(self, mark: str) -> str:
        """Open one. Returns its key. Parameters: mark, of the PINs that stand."""
        key = secrets.token_urlsafe(24)
        with self._guard:
            self._open[key] = (self._clock() + UNLOCKED_S, mark)
            while len(self._open) > MOST_KEPT:
                self._open.popitem(last=False)
        return key

    def is_open(self, key: str, mark: str) -> bool:
        """Whether one stands open still, by the PINs that it was opened by."""
        with self._guard:
            until, opened_by = self._open.get(key, (0.0, ""))
            return self._clock() < until and opened_by == mark

    def end(self, key: str) -> None:
        """Close one."""
        with self._guard:
            self._open.pop(key, None)
