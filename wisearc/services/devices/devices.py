"""Devices let in beyond this machine: by six digits that stand on its screen for a few minutes;
named, and put out.

What is kept of a device is its name and the fingerprint of its secret, in the data folder, not in
the book: a copy of the book opens no door.
"""

from __future__ import annotations

import hashlib
import hmac
import json
import secrets
import threading
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path

from ...core.errors import BadInput
from ...core.schema import checks
from ...store.folder import disk_errors, write_whole
from ..errors import Missing, NotAllowed
from ..people.tries import Tries, in_words
from ..procedures.procedures import now

FILE = "devices.json"
DIGITS, CODE_S = 6, 300
# so many wrong digits from anywhere, and a code is worth nothing: one in twenty thousand that they
# are guessed. Who guesses wrong waits by `Tries`; nobody else does
SPENT_AFTER = 50
# the same sent twice by a hand or a net that was too quick is let in once, for so long
SAME_S = 30
LONGEST_NAME, MOST_DEVICES = 40, 100


@dataclass(frozen=True)
class Device:
    """A device that was let in: its number, name, the fingerprint of its secret, when it was let in
    and seen last (the day).
    """

    id: int
    name: str
    print: str
    let_in_at: str
    seen_on: str


@dataclass(frozen=True)
class Code:
    """Six digits by which one device is let in, until when by the clock given."""

    digits: str
    ends: float
    wrong: int = 0


@dataclass(frozen=True)
class _LetIn:
    """Who was let in last, by which digits, so that the same sent twice is one."""

    digits: str
    name: str
    who: str
    secret: str
    until: float


@dataclass
class Kept:
    """What is kept of them: whether this machine listens beyond itself, the devices, the number of
    the last.
    """

    on: bool = False
    devices: list[Device] = field(default_factory=list)
    last: int = 0


class Devices:
    """The devices of a data folder, and the code that lets the next one in. Safe between
    threads.
    """

    def __init__(self, folder: Path, clock: Callable[[], float] = time.monotonic) -> None:
        self._path, self._clock = folder / FILE, clock
        self._guard = threading.RLock()
        self._code: Code | None = None
        self._tries = Tries(clock)
        self._last: _LetIn | None = None
        self._data = self._read()

    def _read(self) -> Kept:
        try:
            found = json.loads(self._path.read_text(encoding="utf-8"))
            devices = [Device(**row) for row in found["devices"]]
            return Kept(bool(found["on"]), devices, int(found["last"]))
        except FileNotFoundError:
            return Kept()
        except (OSError, ValueError, TypeError, KeyError):
            # what cannot be read lets nobody in
            return Kept()

    def _write(self) -> None:
        data = asdict(self._data)
        with disk_errors():
            write_whole(self._path, json.dumps(data, ensure_ascii=False, indent=1).encode())

    @property
    def on(self) -> bool:
        """Whether this machine is to listen beyond itself at the next start."""
        return self._data.on

    def switch(self, on: bool) -> None:
        """Say whether this machine listens beyond itself."""
        with self._guard:
            self._data.on = on
            self._code = None
            self._write()

    def all(self) -> list[Device]:
        """Every device that is let in."""
        with self._guard:
            return list(self._data.devices)

    def code(self) -> Code:
        """The digits that let the next device in: those that stand, or new ones where they have run
        out.
        """
        with self._guard:
            if self._code is None or self._code.ends <= self._clock():
                self._code = Code(
                    f"{secrets.randbelow(10**DIGITS):0{DIGITS}d}", self._clock() + CODE_S
                )
            return self._code

    def left_s(self) -> int:
        """For how many seconds more the digits stand."""
        with self._guard:
            return max(0, round(self._code.ends - self._clock())) if self._code else 0

    def let_in(self, digits: str, name: str, who: str, at: Callable[[], str] = now) -> str:
        """Let a device in. Returns its secret, which is kept nowhere on the disk. Parameters: who,
        asks, by address. Raises BadInput, NotAllowed.
        """
        named = checks.line("name", " ".join(name.split()), LONGEST_NAME)
        if not named:
            raise BadInput("name", None, "is missing; give the device a name, such as bench tablet")
        typed = "".join(c for c in digits if c.isdigit())
        with self._guard:
            if wait := self._tries.wait_s(who):
                raise NotAllowed(
                    f"Wrong digits were typed on this device. Wait {in_words(wait)}, then ask for"
                    " new digits."
                )
            if len(typed) != DIGITS or not typed.isascii():
                raise BadInput("digits", digits, "must be the six digits on the first screen")
            last = self._last
            if last is not None and last.digits == typed and self._clock() < last.until:
                if (last.name, last.who) == (named, who):
                    return last.secret
                # they were right, and are spent: no guess
                raise BadInput("digits", None, "let another device in just now; ask for new ones")
            self._check(typed, who)
            if len(self._data.devices) >= MOST_DEVICES:
                raise NotAllowed(
                    f"{MOST_DEVICES} devices are let in, the most there can be; put one out first."
                )
            self._code = None
            secret = secrets.token_urlsafe(32)
            self._data.last += 1
            self._data.devices.append(
                Device(self._data.last, named, _print(secret), at(), at()[:10])
            )
            self._write()
            self._tries.right(who)
            self._last = _LetIn(typed, named, who, secret, self._clock() + SAME_S)
            return secret

    def _check(self, typed: str, who: str) -> None:
        """Hold digits against those that stand. Raises BadInput."""
        code = self._code
        if code is None or code.ends <= self._clock():
            # no guess, for there was nothing to be guessed; but none is free
            self._tries.wrong(who)
            raise BadInput("digits", None, "have run out; ask for new ones on the first screen")
        if not hmac.compare_digest(code.digits, typed):
            self._tries.wrong(who)
            self._code = replace(code, wrong=code.wrong + 1)
            if self._code.wrong >= SPENT_AFTER:
                self._code = None
            raise BadInput("digits", typed, "are not those on the first screen")

    def known(self, secret: str, at: Callable[[], str] = now) -> Device | None:
        """The device that has a secret, or None."""
        found = _print(secret)
        with self._guard:
            devices: list[Device] = self._data.devices
            for i, device in enumerate(devices):
                if hmac.compare_digest(device.print, found):
                    today = at()[:10]
                    if device.seen_on != today:
                        devices[i] = replace(device, seen_on=today)
                    return devices[i]
        return None

    def put_out(self, number: int) -> None:
        """Put a device out: its secret opens nothing any more. Raises Missing."""
        with self._guard:
            left = [d for d in self._data.devices if d.id != number]
            if len(left) == len(self._data.devices):
                raise Missing("That device is not among those let in.")
            self._data.devices = left
            self._write()


def _print(secret: str) -> str:
    """The fingerprint of a secret: it is random, so a fast one will do."""
    return hashlib.sha256(secret.encode()).hexdigest()
