"""Signatures of revisions: signing, withdrawal, and the roles that a shop requires."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from ...core.errors import InputError
from ...core.run.signature import (
    BEFORE_RUN,
    MAX_SIGNATURES,
    MEANINGS,
    SIGNING_ROLES,
    WELDER,
    Signature,
)
from ...core.schema import checks
from ...core.schema.documents import write_document
from ...core.schema.json_types import JsonObject
from ...formats.signing import sign
from ...store import queries, shelf
from ...store.database import open_transaction
from ...store.models import Revision
from ..clock import get_now
from ..errors import EditConflict, NotAllowed
from ..people import people, shop_key
from ..people.attempts import AttemptLimiter
from .judged_signatures import SignedState, judge_signatures
from .library_search import list_record
from .procedures import check_not_archived
from .states import STATUS_NAMES, SUPERSEDED, UNVERIFIED, WAITING, verify_if_signed


def list_open_roles(revision: Revision, state: SignedState) -> list[str]:
    """Return the roles in which a revision can be signed now.

    Args:
        revision: The revision.
        state: Its signatures.
    """
    if revision.status == SUPERSEDED or revision.removed_at:
        return []
    return [role for role in SIGNING_ROLES if state.has_run or role in BEFORE_RUN]


def sign_revision(
    label: str,
    letter: str,
    role: str,
    who: str,
    pin: str,
    seen_token: str,
    client: str,
    limiter: AttemptLimiter,
    at: Callable[[], str] = get_now,
) -> Revision:
    """Sign a revision as a person, with the PIN of this person or of a lead.

    The last required signature verifies a revision that waits for signatures.

    Args:
        label: The procedure.
        letter: Revision letter.
        role: "author", "welder", "checker" or "approver".
        who: Initials of the person.
        pin: The PIN.
        seen_token: Token of the page that the person read, or "" for the present content.
        client: Device or address of the user.
        limiter: Failed attempts.
        at: Current time, UTC.

    Raises:
        InputError: The role, the person or the PIN is wrong.
        NotAllowed: The state of the revision or of the key does not permit it.
        EditConflict: The content changed after it was read.
    """
    person = people.find_person(who)
    if person is None or person.role == people.VIEWER:
        rule = "must be a welder or lead of this shop. Add the person in Shop, People"
        raise InputError("who", who, rule)
    checks.name("role", role, SIGNING_ROLES)
    vouched_by = people.check_signing_pin(who, pin, client, limiter)
    return add_signature(label, letter, role, person, vouched_by, seen_token, at)


def add_signature(
    label: str,
    letter: str,
    role: str,
    person: people.Person,
    vouched_by: str,
    seen_token: str = "",
    at: Callable[[], str] = get_now,
) -> Revision:
    """Add the signature of a person whose PIN was checked.

    Args:
        label: The procedure.
        letter: Revision letter.
        role: "author", "welder", "checker" or "approver".
        person: The person.
        vouched_by: Initials of the person whose PIN it was.
        seen_token: Token of the page that the person read, or "" for the present content.
        at: Current time, UTC.

    Raises:
        NotAllowed: The state of the revision or of the key does not permit it.
        EditConflict: The content changed after it was read.
    """
    who = person.initials
    with open_transaction():
        revision = queries.get_revision(label, letter)
        check_not_archived(revision)
        state = judge_signatures(revision)
        _check_can_sign(revision, role, who, state)
        if seen_token and seen_token != state.page_token:
            raise EditConflict(
                f"{label} {letter} changed after you opened it, so it was not signed. Read it"
                " again, then sign."
            )
        if any((entry.role, entry.who) == (role, who) for entry in state.matching_now):
            return revision
        signature = sign(
            Signature(
                role,
                who,
                at(),
                state.digest,
                "",
                "",
                person.name,
                MEANINGS[role],
                "" if vouched_by == who else vouched_by,
            ),
            shop_key.load_signing_key(at),
        )
        revision.signatures = [*revision.signatures, write_document(signature)]
        revision.save(only=[Revision.signatures])
        if revision.status == WAITING:
            verify_if_signed(revision, at)
        list_record(revision)
        return revision


def _check_can_sign(revision: Revision, role: str, who: str, state: SignedState) -> None:
    name = f"{revision.procedure.label} {revision.letter}"
    if revision.status == SUPERSEDED:
        raise NotAllowed(f"{name} is {STATUS_NAMES[SUPERSEDED]}. Sign the newest revision.")
    if role not in list_open_roles(revision, state):
        raise NotAllowed(
            f"{name} has no good run yet. The {SIGNING_ROLES[role]} signs after the run."
        )
    if role == WELDER and people.normalise_initials(who) != people.normalise_initials(state.welder):
        raise NotAllowed(f"{state.welder} welded the run that verifies {name} and signs as welder.")
    if len(revision.signatures) >= MAX_SIGNATURES:
        raise NotAllowed(f"{name} has {MAX_SIGNATURES} signatures, which is the maximum.")


def withdraw_signature(
    label: str,
    letter: str,
    position: int,
    pin: str,
    client: str,
    limiter: AttemptLimiter,
) -> Revision:
    """Withdraw a signature from a revision that is not verified yet.

    Args:
        label: The procedure.
        letter: Revision letter.
        position: Position of the signature, from 0.
        pin: PIN of its person, or of a lead.
        client: Device or address of the user.
        limiter: Failed attempts.

    Raises:
        InputError: The PIN or the position is wrong.
        NotAllowed: The revision is verified.
    """
    revision = queries.get_revision(label, letter)
    entry = _get_entry(revision, position)
    people.check_signing_pin(str(entry.get("who", "")), pin, client, limiter)
    with open_transaction():
        revision = queries.get_revision(label, letter)
        if revision.status not in UNVERIFIED:
            raise NotAllowed(
                f"{label} {letter} is {STATUS_NAMES[revision.status]}: its signatures are"
                " permanent. Save a change as the next revision."
            )
        if position >= len(revision.signatures) or revision.signatures[position] != entry:
            raise EditConflict("The signatures changed after you opened the page. Read them again.")
        kept = [row for i, row in enumerate(revision.signatures) if i != position]
        revision.signatures = kept
        revision.save(only=[Revision.signatures])
        list_record(revision)
        return revision


def _get_entry(revision: Revision, position: int) -> JsonObject:
    if not 0 <= position < len(revision.signatures):
        raise InputError("signature", position, "does not exist")
    entry: JsonObject = revision.signatures[position]
    return entry


def set_required_roles(roles: Sequence[str], at: Callable[[], str] = get_now) -> None:
    """Set the roles that must sign before a good run verifies a revision.

    Revisions that waited only for other roles are verified.

    Args:
        roles: The roles.
        at: Current time, UTC.

    Raises:
        UnknownName: A role is unknown.
    """
    for role in roles:
        checks.name("role", role, SIGNING_ROLES)
    with open_transaction():
        shelf.set_head(required_roles=[role for role in SIGNING_ROLES if role in roles])
        for revision in queries.list_waiting():
            if verify_if_signed(revision, at):
                list_record(revision)


def merge_signatures(revision: Revision, entries: Sequence[JsonObject]) -> int:
    """Add the signatures of a file to a revision with the same content.

    Args:
        revision: The revision.
        entries: Signatures of the file.

    Returns:
        Number of added signatures.
    """
    added = [entry for entry in entries if entry not in revision.signatures]
    if added:
        revision.signatures = [*revision.signatures, *added][:MAX_SIGNATURES]
        revision.save(only=[Revision.signatures])
    return len(added)
