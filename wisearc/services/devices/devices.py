"""Paired devices beyond this machine.

By six digits on its screen for a few minutes; named, and removed. The data folder has the name of a
device and the fingerprint of its secret, outside the library, so that a copy of the library gives
no access.
"""

from __future__ import annotations

import hashlib
import hmac
import json
import secrets
import threading
import time
from collections.abc import Callable
from pathlib import Path

from msgspec import Struct, field, to_builtins
from msgspec.structs import replace

from ...core.errors import InputError
from ...core.schema import checks
from ...store.folder import wrap_disk_errors, write_complete
from ..clock import get_now
from ..errors import Missing, NotAllowed
from ..people.attempts import AttemptLimiter, format_wait

FILE = "devices.json"
DIGITS, CODE_S = 6, 300
# After this number of wrong attempts from all addresses a code is invalid. The chance of a correct
# guess is then 1 in 20,000. `AttemptLimiter` limits the attempts from one address.
MAX_WRONG = 50
# The same request within this time is a repetition, such as a double click.
REPEAT_S = 30
MAX_NAME_LENGTH, MAX_DEVICES = 40, 100


class Device(Struct, frozen=True):
    """A paired device: number, name, fingerprint of its secret, pairing time, last use (date)."""

    id: int
    name: str
    print: str
    let_in_at: str
    seen_on: str


class Code(Struct, frozen=True):
    """Six digits that pair one device, and their expiry."""

    digits: str
    ends: float
    wrong: int = 0


class _Pairing(Struct, frozen=True):
    """The last pairing, so that a repeated request gets the same answer."""

    digits: str
    name: str
    address: str
    secret: str
    end_s: float


class Kept(Struct):
    """The saved data: whether the network is on, the devices, the last number."""

    on: bool = False
    devices: list[Device] = field(default_factory=list)
    last: int = 0


class Devices:
    """The devices of a data folder, and the current pairing code.

    Thread-safe.
    """

    def __init__(self, folder: Path, clock: Callable[[], float] = time.monotonic) -> None:
        """Use the devices of a data folder.

        Args:
            folder: The data folder.
            clock: Monotonic time, s.
        """
        self._path, self._clock = folder / FILE, clock
        self._guard = threading.RLock()
        self._code: Code | None = None
        self._limiter = AttemptLimiter(clock)
        self._last: _Pairing | None = None
        self._data = self._read()

    def _read(self) -> Kept:
        try:
            data = json.loads(self._path.read_text(encoding="utf-8"))
            devices = [Device(**row) for row in data["devices"]]
            return Kept(bool(data["on"]), devices, int(data["last"]))
        except FileNotFoundError:
            return Kept()
        except (OSError, ValueError, TypeError, KeyError):
            # An unreadable file pairs no device.
            return Kept()

    def _write(self) -> None:
        data = to_builtins(self._data)
        with wrap_disk_errors():
            write_complete(self._path, json.dumps(data, ensure_ascii=False, indent=1).encode())

    @property
    def on(self) -> bool:
        """Return whether the network is on at the next start."""
        return self._data.on

    def switch(self, on: bool) -> None:
        """Switch the network on or off."""
        with self._guard:
            self._data.on = on
            self._code = None
            self._write()

    def all(self) -> list[Device]:
        """Return every paired device."""
        with self._guard:
            return list(self._data.devices)

    def code(self) -> Code:
        """Return the current pairing code, or a new one after its expiry."""
        with self._guard:
            if self._code is None or self._code.ends <= self._clock():
                self._code = Code(
                    f"{secrets.randbelow(10**DIGITS):0{DIGITS}d}", self._clock() + CODE_S
                )
            return self._code

    def left_s(self) -> int:
        """Return the remaining validity of the code, s."""
        with self._guard:
            return max(0, round(self._code.ends - self._clock())) if self._code else 0

    def pair(self, digits: str, name: str, address: str, at: Callable[[], str] = get_now) -> str:
        """Pair a device.

        Args:
            digits: The code that the user entered.
            name: Name of the device.
            address: Address of the device.
            at: Current time, UTC.

        Returns:
            The secret of the device. It is not saved on the disk.

        Raises:
            InputError: The code or the name is not valid.
            NotAllowed: There were too many failed attempts, or there are too many devices.
        """
        named = checks.check_line("name", " ".join(name.split()), MAX_NAME_LENGTH)
        if not named:
            raise InputError(
                "name", None, "is missing. Give the device a name, such as Bench tablet"
            )
        typed = "".join(c for c in digits if c.isdigit())
        with self._guard:
            if wait_s := self._limiter.remaining_wait_s(address):
                raise NotAllowed(
                    f"Too many wrong codes. Wait {format_wait(wait_s)}, then enter a new code."
                )
            if len(typed) != DIGITS or not typed.isascii():
                raise InputError("digits", digits, "must be the six digits on the main screen")
            last = self._last
            if last is not None and last.digits == typed and self._clock() < last.end_s:
                if (last.name, last.address) == (named, address):
                    return last.secret
                # The code was correct. This does not count as a failed attempt.
                raise InputError("digits", None, "are already used. Enter a new code")
            self._check(typed, address)
            if len(self._data.devices) >= MAX_DEVICES:
                raise NotAllowed(
                    f"{MAX_DEVICES} devices are paired, which is the maximum. Remove one first."
                )
            self._code = None
            secret = secrets.token_urlsafe(32)
            self._data.last += 1
            self._data.devices.append(
                Device(self._data.last, named, _print(secret), at(), at()[:10])
            )
            self._write()
            self._limiter.reset(address)
            self._last = _Pairing(typed, named, address, secret, self._clock() + REPEAT_S)
            return secret

    def _check(self, typed: str, address: str) -> None:
        """Compare a code with the current code.

        Raises:
            InputError: The code is wrong or out of date.
        """
        code = self._code
        if code is None or code.ends <= self._clock():
            self._limiter.record_failure(address)
            raise InputError("digits", None, "have expired. Get a new code on the main screen")
        if not hmac.compare_digest(code.digits, typed):
            self._limiter.record_failure(address)
            self._code = replace(code, wrong=code.wrong + 1)
            if self._code.wrong >= MAX_WRONG:
                self._code = None
            raise InputError("digits", typed, "do not match the code on the main screen")

    def known(self, secret: str, at: Callable[[], str] = get_now) -> Device | None:
        """Return the device with a secret, or None.

        Args:
            secret: The secret.
            at: Current time, UTC.
        """
        digest = _print(secret)
        with self._guard:
            devices: list[Device] = self._data.devices
            for i, device in enumerate(devices):
                if hmac.compare_digest(device.print, digest):
                    today = at()[:10]
                    if device.seen_on != today:
                        devices[i] = replace(device, seen_on=today)
                    return devices[i]
        return None

    def revoke(self, number: int) -> None:
        """Revoke a device.

        Its secret becomes invalid.

        Raises:
            Missing: The device does not exist.
        """
        with self._guard:
            left = [d for d in self._data.devices if d.id != number]
            if len(left) == len(self._data.devices):
                raise Missing("That device is not paired.")
            self._data.devices = left
            self._write()


def _print(secret: str) -> str:
    """Return the fingerprint of a secret.

    A fast hash is sufficient, because the secret is random.
    """
    return hashlib.sha256(secret.encode()).hexdigest()
