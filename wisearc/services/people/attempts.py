"""Failed PIN and pairing-code attempts, counted for each device or address."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable

from msgspec import Struct

# Estimates: with these waits, guessing a six-digit code takes years.
FREE_ATTEMPTS, FIRST_WAIT_S, MAX_WAIT_S = 5, 60.0, 3600.0
FORGET_AFTER_S = 6 * 3600.0
MAX_CLIENTS = 2000


class _Failures(Struct):
    count: int
    last_s: float


class AttemptLimiter:
    """Makes a client wait after failed attempts. Other clients do not wait. Thread-safe."""

    def __init__(self, clock: Callable[[], float]) -> None:
        """Create a limiter.

        Args:
            clock: Monotonic time, s. A user cannot change it.
        """
        self._clock, self._lock = clock, threading.Lock()
        self._failures: OrderedDict[str, _Failures] = OrderedDict()

    def remaining_wait_s(self, client: str) -> float:
        """Return the time until the client can try again, s.

        Args:
            client: Device or address.
        """
        with self._lock:
            failures = self._find(client)
            if failures is None or failures.count < FREE_ATTEMPTS:
                return 0.0
            wait_s = min(MAX_WAIT_S, FIRST_WAIT_S * 2.0 ** (failures.count - FREE_ATTEMPTS))
            return max(0.0, failures.last_s + wait_s - self._clock())

    def record_failure(self, client: str) -> None:
        """Count a failed attempt.

        Args:
            client: Device or address.
        """
        with self._lock:
            failures = self._find(client)
            count = 1 if failures is None else failures.count + 1
            self._failures[client] = _Failures(count, self._clock())
            self._failures.move_to_end(client)
            while len(self._failures) > MAX_CLIENTS:
                self._failures.popitem(last=False)

    def reset(self, client: str) -> None:
        """Forget the failed attempts of a client.

        Args:
            client: Device or address.
        """
        with self._lock:
            self._failures.pop(client, None)

    def _find(self, client: str) -> _Failures | None:
        failures = self._failures.get(client)
        if failures is not None and self._clock() - failures.last_s > FORGET_AFTER_S:
            del self._failures[client]
            return None
        return failures


def format_wait(wait_s: float) -> str:
    """Format a wait for a message.

    Args:
        wait_s: Wait, s.

    >>> format_wait(60.0), format_wait(61.0), format_wait(3600.0)
    ('1 minute', '2 min', '60 min')
    """
    minutes = int(-(-wait_s // 60))
    return "1 minute" if minutes <= 1 else f"{minutes} min"
