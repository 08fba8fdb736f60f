"""Guesses counted by who makes them: after some wrong ones nothing of theirs is tried for a while,
longer each time. Others are not held up by it.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass

# so many wrong ones are free; then a wait that doubles with each, up to the most. Estimates: with
# them a million digits take years
FREE, FIRST_S, MOST_S = 5, 60.0, 3600.0
# who guessed nothing wrong for so long begins anew
FORGOTTEN_S = 6 * 3600.0
MOST_KEPT = 2000


@dataclass
class _Wrong:
    count: int
    last: float


class Tries:
    """Wrong guesses. Safe between threads. Parameters: clock, s, one that is not set by anyone."""

    def __init__(self, clock: Callable[[], float]) -> None:
        self._clock, self._guard = clock, threading.Lock()
        self._wrong: OrderedDict[str, _Wrong] = OrderedDict()

    def wait_s(self, who: str) -> float:
        """For how long nothing of theirs is tried, s; 0 where it is."""
        with self._guard:
            found = self._of(who)
            if found is None or found.count < FREE:
                return 0.0
            wait = min(MOST_S, FIRST_S * 2.0 ** (found.count - FREE))
            return max(0.0, found.last + wait - self._clock())

    def wrong(self, who: str) -> None:
        """Count a wrong guess."""
        with self._guard:
            found = self._of(who)
            self._wrong[who] = _Wrong(1 if found is None else found.count + 1, self._clock())
            self._wrong.move_to_end(who)
            while len(self._wrong) > MOST_KEPT:
                self._wrong.popitem(last=False)

    def right(self, who: str) -> None:
        """Who guessed right begins anew."""
        with self._guard:
            self._wrong.pop(who, None)

    def _of(self, who: str) -> _Wrong | None:
        found = self._wrong.get(who)
        if found is not None and self._clock() - found.last > FORGOTTEN_S:
            del self._wrong[who]
            return None
        return found


def in_words(wait_s: float) -> str:
    """A wait in words.

    >>> in_words(60.0), in_words(61.0), in_words(3600.0)
    ('a minute', '2 min', '60 min')
    """
    minutes = int(-(-wait_s // 60))
    return "a minute" if minutes <= 1 else f"{minutes} min"
