"""People: initials and names with a role, so that records know their hand; and the lead's PIN,
before acts that are the lead's.

No passwords: who works at a device says so. A PIN is kept as its hash (argon2id).
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError

from ...core.errors import BadInput
from ...core.schema import checks
from ...core.shop.shop import ROLES
from ...store import people as hands
from ...store.database import transaction
from ..errors import Missing, NotAllowed, StoreError
from ..procedures.procedures import now

LONGEST_INITIALS, LONGEST_NAME, MOST_PEOPLE = 8, 60, 200
PIN_LEAST, PIN_MOST = 4, 12
# wrong PINs in so many seconds before none is tried for as long
TRIES, WAIT_S = 5, 60.0
_wrong: list[float] = []
_guard = threading.Lock()


@dataclass(frozen=True)
class Person:
    """Someone: number, initials, name, role, and whether a PIN is set."""

    id: int
    initials: str
    name: str
    role: str
    has_pin: bool


def people() -> list[Person]:
    """Everyone who was entered, by initials; nobody where the book cannot be read."""
    try:
        return [
            Person(one.id, one.initials, one.name, one.role, bool(one.pin))
            for one in hands.standing()
        ]
    except StoreError:
        return []


def person(initials: str) -> Person | None:
    """Someone by their initials, or None."""
    return next((p for p in people() if p.initials == initials), None)


def enter(initials: str, name: str, role: str, pin: str = "") -> None:
    """Enter someone. Raises BadInput, UnknownName."""
    short, long, kind = _checked(initials, name, role)
    hashed = _hashed(pin) if kind == "lead" else ""
    if kind != "lead" and pin.strip():
        raise BadInput("pin", None, "is a lead's; leave it empty for another role")
    with transaction():
        if any(p.initials.lower() == short.lower() for p in people()):
            raise BadInput("initials", short, "stand already; give others")
        if len(people()) >= MOST_PEOPLE:
            raise BadInput("people", None, f"are {MOST_PEOPLE}, the most there can be")
        hands.add(short, long, kind, hashed)


def _checked(initials: str, name: str, role: str) -> tuple[str, str, str]:
    short = checks.line("initials", initials.strip(), LONGEST_INITIALS)
    if not short:
        raise BadInput("initials", None, "are missing; such as R.T.")
    return short, checks.line("name", name.strip(), LONGEST_NAME), checks.name("role", role, ROLES)


def _hashed(pin: str) -> str:
    typed = pin.strip()
    if not typed.isascii() or not typed.isdigit() or not PIN_LEAST <= len(typed) <= PIN_MOST:
        raise BadInput("pin", None, f"must be {PIN_LEAST} to {PIN_MOST} digits")
    return PasswordHasher().hash(typed)


def new_pin(initials: str, pin: str) -> None:
    """Give a lead a new PIN. Raises BadInput, Missing."""
    found = person(initials)
    if found is None or found.role != "lead":
        raise Missing(f"{initials} is no lead of this shop.")
    hashed = _hashed(pin)
    with transaction():
        hands.set_pin(found.id, hashed)


def put_away(number: int, at: Callable[[], str] = now) -> None:
    """Put someone away: what they wrote down stays theirs. Raises Missing, NotAllowed for the last
    lead.
    """
    found = next((p for p in people() if p.id == number), None)
    if found is None:
        raise Missing("Nobody of that number is entered here.")
    leads = [p for p in people() if p.role == "lead"]
    if leads == [found] and len(people()) > 1:
        raise NotAllowed("That is the only lead. Enter another first, or put the others away.")
    with transaction():
        hands.put_away(number, at())


def lead_needed() -> bool:
    """Whether acts of the lead ask for a PIN: where a lead is entered."""
    return any(p.role == "lead" for p in people())


def _is(hashed: str, pin: str) -> bool:
    try:
        return PasswordHasher().verify(hashed, pin)
    except (Argon2Error, InvalidHashError):
        return False


def check_pin(pin: str, clock: Callable[[], float] = time.monotonic) -> Person:
    """The lead whose PIN it is. Raises BadInput, NotAllowed after too many wrong ones."""
    with _guard:
        at = clock()
        _wrong[:] = [when for when in _wrong if at - when < WAIT_S]
        if len(_wrong) >= TRIES:
            raise NotAllowed(f"{TRIES} wrong PINs were typed. Wait a minute.")
        typed = pin.strip()[: PIN_MOST + 1]
        for one in hands.standing():
            if one.role == "lead" and one.pin and _is(one.pin, typed):
                return Person(one.id, one.initials, one.name, "lead", True)
        _wrong.append(at)
    raise BadInput("pin", None, "is not a lead's of this shop")
