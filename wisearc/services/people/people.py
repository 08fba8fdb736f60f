"""People: initials and names with a role, so that records know their hand; and the lead's PIN,
before acts that are the lead's.

No passwords: who works at a device says so. A PIN is kept as its hash (argon2id), beside the book.
Where the book cannot be read nobody is let off a PIN.
"""

from __future__ import annotations

import threading
import unicodedata
from collections.abc import Callable
from dataclasses import dataclass

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError

from ...core.errors import BadInput, in_few_words
from ...core.schema import checks
from ...core.shop.shop import ROLES
from ...store import people as hands
from ...store.database import transaction
from ..errors import Missing, NotAllowed
from ..procedures.procedures import now
from .tries import Tries, in_words

LONGEST_INITIALS, LONGEST_NAME, MOST_PEOPLE = 8, 60, 200
PIN_LEAST, PIN_MOST = 6, 12
HASHER = PasswordHasher()
# one PIN is tried at a time: each takes room
_guard = threading.Lock()


class ShortPin(BadInput):
    """A PIN of before, shorter than PINs are now: right, and good for nothing but a longer one."""

    def __init__(self) -> None:
        super().__init__(
            "pin",
            None,
            f"is shorter than {PIN_LEAST} digits. It counts once more, with a new one of"
            f" {PIN_LEAST} to {PIN_MOST} digits beside it",
        )


@dataclass(frozen=True)
class Person:
    """Someone: number, initials, name, role, and whether a PIN is set."""

    id: int
    initials: str
    name: str
    role: str
    has_pin: bool


def people() -> list[Person]:
    """Everyone who was entered, by initials. Raises StoreError where the book cannot be read."""
    return [
        Person(one.id, one.initials, one.name, one.role, bool(hands.pins().of(one.initials)))
        for one in hands.standing()
    ]


def person(initials: str) -> Person | None:
    """Someone by their initials, or None. Raises StoreError."""
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
        hands.add(short, long, kind)
        if hashed:
            hands.pins().put(short, hashed)


def _checked(initials: str, name: str, role: str) -> tuple[str, str, str]:
    short = checks.line("initials", initials.strip(), LONGEST_INITIALS)
    if not short:
        raise BadInput("initials", None, "are missing; such as R.T.")
    # what is not seen would make two who look the same
    if not all(unicodedata.category(char)[0] in "LNPS" or char == " " for char in short):
        raise BadInput(
            "initials", in_few_words(short), "must be letters, digits and points that can be seen"
        )
    return short, checks.line("name", name.strip(), LONGEST_NAME), checks.name("role", role, ROLES)


def _hashed(pin: str) -> str:
    typed = pin.strip()
    if not typed.isascii() or not typed.isdigit() or not PIN_LEAST <= len(typed) <= PIN_MOST:
        raise BadInput("pin", None, f"must be {PIN_LEAST} to {PIN_MOST} digits")
    return HASHER.hash(typed)


def new_pin(initials: str, pin: str) -> None:
    """Give a lead a new PIN. After a restore that left no lead the one who is named is entered as
    one. Raises BadInput, Missing.
    """
    hashed = _hashed(pin)
    found = person(initials)
    if found is None and hands.pins().restored and not any(p.role == "lead" for p in people()):
        enter(initials, "", "lead", pin)
        return
    if found is None or found.role != "lead":
        raise Missing(f"{initials} is no lead of this shop.")
    hands.pins().put(found.initials, hashed)


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
        hands.pins().take_away(found.initials)


def lead_needed() -> bool:
    """Whether acts of the lead ask for a PIN: where a lead is entered, and after a restore. Raises
    StoreError.
    """
    return is_restored() or any(p.role == "lead" for p in people())


def is_restored() -> bool:
    """Whether a restored book stands and no lead's PIN was set since: nobody acts as a lead."""
    return hands.pins().restored


def mark() -> str:
    """The mark of the PINs that stand: what was unlocked by others is not."""
    return hands.pins().mark


def _is(hashed: str, pin: str) -> bool:
    try:
        return HASHER.verify(hashed, pin)
    except (Argon2Error, InvalidHashError):
        return False


def check_pin(pin: str, who: str, tries: Tries, new: str = "") -> Person:
    """The lead whose PIN it is.

    Parameters: who, asks, by device or address; tries, the wrong ones so far; new, the PIN that
    takes the place of one that is too short. Raises BadInput, ShortPin; NotAllowed after too many
    wrong ones, and after a restore.
    """
    if is_restored():
        raise NotAllowed(AFTER_RESTORE)
    with _guard:
        if wait := tries.wait_s(who):
            raise NotAllowed(
                f"Wrong PINs were typed here. Wait {in_words(wait)}, then type it again."
            )
        typed = pin.strip()[: PIN_MOST + 1]
        for one in hands.standing():
            hashed = hands.pins().of(one.initials) if one.role == "lead" else ""
            if hashed and _is(hashed, typed):
                tries.right(who)
                if len(typed) < PIN_LEAST:
                    if not new.strip():
                        raise ShortPin
                    hands.pins().put(one.initials, _hashed(new))
                return Person(one.id, one.initials, one.name, "lead", True)
        tries.wrong(who)
    raise BadInput("pin", None, "is not a lead's of this shop")


AFTER_RESTORE = (
    "A backup was restored, and PINs are in none: nobody acts as a lead until one is set. At the"
    " machine that Wise Arc runs on, give the command “wisearc people --new-pin INITIALS”. Plans"
    " and the bench go on meanwhile."
)
