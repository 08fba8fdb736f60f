"""Whose practice it is: the device's own, or that of a person who entered the PIN on it.

A device has a secret in a cookie. Only its hash is saved, so that nobody can open the practice of a
device from the library.
"""

from __future__ import annotations

import hashlib
import secrets
import threading
import time
from collections import OrderedDict
from collections.abc import Callable

from msgspec import Struct

# An entered PIN opens the practice of a person on a device for a working day, s. Estimate.
OPEN_S = 10 * 3600.0
MAX_OPEN = 500
_DEVICE, _PERSON = "device:", "person:"


class Learner(Struct, frozen=True):
    """An owner of practice: key, and the initials of a person or ""."""

    key: str
    initials: str = ""


def create_secret() -> str:
    """Return the secret of a new device."""
    return secrets.token_urlsafe(24)


def get_device_key(secret: str) -> str:
    """Return the owner key of a device.

    Args:
        secret: The secret in its cookie.
    """
    return _DEVICE + hashlib.sha256(secret.encode()).hexdigest()[:40]


class LearnerSessions:
    """The devices on which the practice of a person is open. Thread-safe."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        """Create an empty set.

        Args:
            clock: Monotonic time, s.
        """
        self._clock, self._lock = clock, threading.Lock()
        self._open: OrderedDict[str, tuple[float, int, str]] = OrderedDict()

    def open(self, secret: str, person: int, initials: str) -> Learner:
        """Open the practice of a person on a device.

        Args:
            secret: The secret of the device.
            person: Number of the person.
            initials: Initials of the person.
        """
        with self._lock:
            self._open[get_device_key(secret)] = (self._clock() + OPEN_S, person, initials)
            while len(self._open) > MAX_OPEN:
                self._open.popitem(last=False)
        return Learner(f"{_PERSON}{person}", initials)

    def close(self, secret: str) -> None:
        """Close the practice of a person on a device.

        Args:
            secret: The secret of the device.
        """
        with self._lock:
            self._open.pop(get_device_key(secret), None)

    def find(self, secret: str) -> Learner:
        """Return the learner of a device.

        Args:
            secret: The secret of the device.
        """
        key = get_device_key(secret)
        with self._lock:
            until, person, initials = self._open.get(key, (0.0, 0, ""))
            if self._clock() < until:
                return Learner(f"{_PERSON}{person}", initials)
        return Learner(key)
