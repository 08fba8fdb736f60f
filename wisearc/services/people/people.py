"""People.

Initials and names with a role, so that records name their author; and PINs for signatures and lead
actions. There are no passwords: people choose their initials. A PIN is saved as an argon2id hash in
a separate file. If the library cannot be read, lead actions fail.
"""

from __future__ import annotations

import threading
import unicodedata
from collections.abc import Callable

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError
from msgspec import Struct

from ...core.errors import InputError, shorten
from ...core.schema import checks
from ...core.shop.shop import ROLES
from ...store import people as store_people
from ...store.database import open_transaction
from ..clock import get_now
from ..errors import Missing, NotAllowed
from .attempts import AttemptLimiter, format_wait

MAX_INITIALS_LENGTH, MAX_NAME_LENGTH, MAX_PEOPLE = 8, 60, 200
MIN_PIN_LENGTH, MAX_PIN_LENGTH = 6, 12
LEAD, VIEWER = "lead", "viewer"
HASHER = PasswordHasher()
# Each check needs 64 MB of memory: check one PIN at a time.
_lock = threading.Lock()
AFTER_RESTORE = (
    "No changes were made. A backup was restored, and backups have no PINs. On the computer that"
    " runs Wise Arc, enter “wisearc people --new-pin INITIALS”. You can still plan and weld."
)


class ShortPin(InputError):
    """A valid PIN of an earlier version that is too short now. The user must set a new PIN."""

    def __init__(self) -> None:
        """Create the error."""
        rule = (
            f"This PIN has fewer than {MIN_PIN_LENGTH} digits. Enter the PIN again with a new PIN"
            f" of {MIN_PIN_LENGTH} to {MAX_PIN_LENGTH} digits"
        )
        super().__init__("pin", None, rule)


class Person(Struct, frozen=True):
    """A person: number, initials, name, role, and whether a PIN is set."""

    id: int
    initials: str
    name: str
    role: str
    has_pin: bool


def list_people() -> list[Person]:
    """List all people by initials.

    Raises:
        StoreError: The library cannot be read.
    """
    return [
        Person(
            row.id,
            row.initials,
            row.name,
            row.role,
            bool(store_people.open_pin_file().get_hash(row.initials)),
        )
        for row in store_people.list_people()
    ]


def find_person(initials: str) -> Person | None:
    """Return the person with these initials, or None.

    Args:
        initials: Initials.

    Raises:
        StoreError: The library cannot be read.
    """
    return next((p for p in list_people() if p.initials == initials), None)


def enter(initials: str, name: str, role: str, pin: str = "") -> None:
    """Enter a person.

    Args:
        initials: Initials.
        name: Name.
        role: Role.
        pin: PIN. A lead needs one, a viewer has none.

    Raises:
        InputError: A value is wrong.
        UnknownName: The role is unknown.
    """
    short, long, kind = _check_person(initials, name, role)
    if kind == VIEWER and pin.strip():
        raise InputError("pin", None, "A viewer has no PIN. Clear the field")
    hashed = _hash_pin(pin) if kind == LEAD or pin.strip() else ""
    with open_transaction():
        if any(p.initials.lower() == short.lower() for p in list_people()):
            raise InputError("initials", short, "are already in use. Enter others")
        if len(list_people()) >= MAX_PEOPLE:
            raise InputError("people", None, f"are {MAX_PEOPLE}, which is the maximum")
        store_people.add(short, long, kind)
        if hashed:
            store_people.open_pin_file().set_hash(short, hashed)


def _check_person(initials: str, name: str, role: str) -> tuple[str, str, str]:
    short = checks.check_line("initials", initials.strip(), MAX_INITIALS_LENGTH)
    if not short:
        raise InputError("initials", None, "are missing. Example: R.T.")
    # With invisible characters two people could have initials that look identical.
    if not all(unicodedata.category(char)[0] in "LNPS" or char == " " for char in short):
        raise InputError(
            "initials", shorten(short), "must be visible letters, digits and punctuation"
        )
    return (
        short,
        checks.check_line("name", name.strip(), MAX_NAME_LENGTH),
        checks.name("role", role, ROLES),
    )


def normalise_initials(initials: str) -> str:
    """Return initials without points and spaces, for comparison.

    >>> normalise_initials("R. T.") == normalise_initials("rt")
    True
    """
    return initials.replace(".", "").replace(" ", "").casefold()


def _hash_pin(pin: str) -> str:
    typed = pin.strip()
    if (
        not typed.isascii()
        or not typed.isdigit()
        or not MIN_PIN_LENGTH <= len(typed) <= MAX_PIN_LENGTH
    ):
        raise InputError(
            "pin", None, f"A PIN has {MIN_PIN_LENGTH} to {MAX_PIN_LENGTH} digits. Enter one"
        )
    return HASHER.hash(typed)


def set_pin(initials: str, pin: str) -> None:
    """Set the PIN of a person.

    After a restore without a lead, add this person as a lead.

    Args:
        initials: Initials of the person.
        pin: The new PIN.

    Raises:
        InputError: The PIN is not valid.
        Missing: There is no such person, or a viewer.
    """
    hashed = _hash_pin(pin)
    person = find_person(initials)
    if (
        person is None
        and store_people.open_pin_file().restored
        and not any(p.role == LEAD for p in list_people())
    ):
        enter(initials, "", LEAD, pin)
        return
    if person is None or person.role == VIEWER:
        raise Missing(f"{initials} is not a welder or lead of this shop.")
    store_people.open_pin_file().set_hash(person.initials, hashed)


def archive_person(number: int, at: Callable[[], str] = get_now) -> None:
    """Archive a person.

    Records keep their author.

    Args:
        number: Number of the person.
        at: Current time, UTC.

    Raises:
        Missing: The person does not exist.
        NotAllowed: The person is the last lead.
    """
    person = next((p for p in list_people() if p.id == number), None)
    if person is None:
        raise Missing("That person is not in this shop.")
    leads = [p for p in list_people() if p.role == LEAD]
    if leads == [person] and len(list_people()) > 1:
        raise NotAllowed(
            "That is the only lead. Add another lead first, or archive the other people."
        )
    with open_transaction():
        store_people.archive_person(number, at())
        store_people.open_pin_file().remove(person.initials)


def needs_lead() -> bool:
    """Return whether lead actions need a PIN: if there is a lead, and after a restore.

    Raises:
        StoreError: The library cannot be read.
    """
    return is_restored() or any(p.role == LEAD for p in list_people())


def is_restored() -> bool:
    """Return whether a backup was restored and no PIN was set after that."""
    return store_people.open_pin_file().restored


def get_pin_generation() -> str:
    """Return the generation of the PINs. A lead session is valid for one generation."""
    return store_people.open_pin_file().generation


def _is(hashed: str, pin: str) -> bool:
    try:
        return HASHER.verify(hashed, pin)
    except (Argon2Error, InvalidHashError):
        return False


def check_pin(pin: str, client: str, limiter: AttemptLimiter, new_pin: str = "") -> Person:
    """Check a lead PIN.

    Args:
        pin: The PIN that the user entered.
        client: Device or address of the user.
        limiter: Failed attempts.
        new_pin: New PIN, if the PIN of an earlier version is too short.

    Returns:
        The lead with this PIN.

    Raises:
        InputError: The PIN is wrong.
        ShortPin: The PIN is correct but too short.
        NotAllowed: There were too many failed attempts, or a backup was restored.
    """
    if is_restored():
        raise NotAllowed(AFTER_RESTORE)
    leads = [row.initials for row in store_people.list_people() if row.role == LEAD]
    entered = _normalise_pin(pin)
    initials = _check_hashes(leads, entered, client, limiter)
    person = next(p for p in list_people() if p.initials == initials)
    if len(entered) < MIN_PIN_LENGTH:
        if not new_pin.strip():
            raise ShortPin
        store_people.open_pin_file().set_hash(initials, _hash_pin(new_pin))
    return person


def check_signing_pin(initials: str, pin: str, client: str, limiter: AttemptLimiter) -> str:
    """Check the PIN with which a person signs: the own PIN, or that of a lead.

    Args:
        initials: Initials of the person.
        pin: The PIN that the user entered.
        client: Device or address of the user.
        limiter: Failed attempts.

    Returns:
        Initials of the person whose PIN it is.

    Raises:
        InputError: The PIN is wrong.
        NotAllowed: There were too many failed attempts, or nobody has a PIN.
    """
    leads = [row.initials for row in store_people.list_people() if row.role == LEAD]
    signers = [initials, *(lead for lead in leads if lead != initials)]
    if not any(store_people.open_pin_file().get_hash(signer) for signer in signers):
        raise NotAllowed(
            f"{initials} has no PIN, and no lead has one. Set a PIN in Shop, People, then sign."
        )
    return _check_hashes(signers, _normalise_pin(pin), client, limiter)


def check_own_pin(initials: str, pin: str, client: str, limiter: AttemptLimiter) -> Person:
    """Check the own PIN of a person. The PIN of a lead does not open what belongs to another.

    Args:
        initials: Initials that the user entered.
        pin: The PIN that the user entered.
        client: Device or address of the user.
        limiter: Failed attempts.

    Returns:
        The person.

    Raises:
        InputError: The PIN is wrong.
        NotAllowed: There were too many failed attempts, or the person has no PIN.
    """
    typed = normalise_initials(initials)
    person = next((p for p in list_people() if normalise_initials(p.initials) == typed), None)
    if person is None or not person.has_pin:
        raise NotAllowed("These initials have no PIN. Set one in Shop, People, then open it here.")
    _check_hashes([person.initials], _normalise_pin(pin), client, limiter)
    return person


def _normalise_pin(pin: str) -> str:
    return pin.strip()[: MAX_PIN_LENGTH + 1]


def _check_hashes(signers: list[str], pin: str, client: str, limiter: AttemptLimiter) -> str:
    """Return the first of some people with a PIN, and count a failed attempt."""
    with _lock:
        if wait_s := limiter.remaining_wait_s(client):
            raise NotAllowed(f"Too many wrong PINs. Try again in {format_wait(wait_s)}.")
        for initials in signers:
            pin_hash = store_people.open_pin_file().get_hash(initials)
            if pin_hash and _is(pin_hash, pin):
                limiter.reset(client)
                return initials
        limiter.record_failure(client)
    raise InputError("pin", None, "Wrong PIN")
