"""Browsers in which a lead PIN was entered. The server stores them, so an old cookie is useless."""

from __future__ import annotations

import secrets
import threading
import time
from collections import OrderedDict
from collections.abc import Callable

SESSION_S = 900.0
MAX_SESSIONS = 200


class LeadSessions:
    """The lead sessions that are open. Thread-safe."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        """Create an empty set of sessions.

        Args:
            clock: Monotonic time, s. A user cannot change it.
        """
        self._clock, self._lock = clock, threading.Lock()
        self._sessions: OrderedDict[str, tuple[float, str]] = OrderedDict()

    def open(self, pin_generation: str) -> str:
        """Open a session.

        Args:
            pin_generation: Generation of the PINs with which it is opened.

        Returns:
            Key of the session.
        """
        key = secrets.token_urlsafe(24)
        with self._lock:
            self._sessions[key] = (self._clock() + SESSION_S, pin_generation)
            while len(self._sessions) > MAX_SESSIONS:
                self._sessions.popitem(last=False)
        return key

    def is_open(self, key: str, pin_generation: str) -> bool:
        """Return whether a session is open.

        Args:
            key: Key of the session.
            pin_generation: Current generation of the PINs. An older one closes the session.
        """
        with self._lock:
            end_s, opened_with = self._sessions.get(key, (0.0, ""))
            return self._clock() < end_s and opened_with == pin_generation

    def close(self, key: str) -> None:
        """Close a session.

        Args:
            key: Key of the session.
        """
        with self._lock:
            self._sessions.pop(key, None)
