"""Undo of the last act on the record of a procedure.

Only the last act can be undone, then the one before it. An undo leaves its trace: a run is voided
or corrected back, a draft is archived, and nothing is deleted.
"""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from ...formats.run_json import read_record
from ...store import queries, record_acts
from ...store.database import open_transaction
from ...store.errors import EditConflict, NotAllowed
from ...store.models import RecordAct, Revision, RunRow
from ..clock import get_now
from ..procedures import procedures
from ..procedures.judged_signatures import is_signed_with_run
from ..procedures.library_search import list_record
from ..procedures.procedures import ARCHIVED, CREATED, EDITED, RETIRED
from .inbox import ATTACHED, LOG_FIELDS, PHOTOGRAPH_FIELDS, release_items
from .later_entries import INSPECTED, extend_record, restore_inspection
from .runs import CORRECTED, RECORDED, VOIDED, correct, restore_run, withdraw_run


class LastAct(Struct, frozen=True):
    """The last act on a procedure: its number, a sentence, and its time, UTC."""

    id: int
    text: str
    at: str


def find_last_act(revision: Revision) -> LastAct | None:
    """Return the last act on the procedure of a revision that can be undone, or None.

    Args:
        revision: The revision.
    """
    act = record_acts.find_last_act(revision.procedure)
    return None if act is None else LastAct(act.id, act.text, act.at)


def undo_act(label: str, number: int, who: str, at: Callable[[], str] = get_now) -> Revision:
    """Undo the last act on a procedure.

    Args:
        label: The procedure.
        number: Number of the act.
        who: Initials of the person, or "".
        at: Current time, UTC.

    Returns:
        The revision of the act.

    Raises:
        EditConflict: It is not the last act any more.
        NotAllowed: Something else depends on it. Nothing was changed.
    """
    with open_transaction():
        owner = queries.get_procedure(label)
        act = record_acts.find_last_act(owner)
        if act is None or act.id != number:
            raise EditConflict(
                f"{label} was changed after that, so it was not undone. Open {label} and undo the"
                " last change first."
            )
        revision = queries.get_revision(label, act.letter)
        _UNDO[act.kind](revision, act, who or "undo", at)
        # The undo itself is the last act of the record, but has no undo.
        for later in record_acts.list_later_acts(owner, act.id):
            record_acts.mark_undone(later, at())
        record_acts.mark_undone(act, at())
        return queries.get_revision(label, act.letter)


def _undo_creation(revision: Revision, act: RecordAct, who: str, at: Callable[[], str]) -> None:
    if queries.has_runs(revision):
        name = f"{revision.procedure.label} {revision.letter}"
        raise NotAllowed(f"{name} has runs. Void or undo them first.")
    procedures.archive_draft(revision.procedure.label, revision.letter, at)


def _undo_edit(revision: Revision, act: RecordAct, who: str, at: Callable[[], str]) -> None:
    name = f"{revision.procedure.label} {revision.letter}"
    if queries.has_runs(revision) or revision.signatures:
        raise NotAllowed(f"{name} has runs or signatures, so its edit stays.")
    for key, value in (act.before or {}).items():
        setattr(revision, key, value)
    revision.edit += 1
    revision.changed_at = at()
    revision.save()
    list_record(revision)


def _undo_archiving(revision: Revision, act: RecordAct, who: str, at: Callable[[], str]) -> None:
    procedures.restore_draft(revision.procedure.label, revision.letter)


def _undo_retirement(revision: Revision, act: RecordAct, who: str, at: Callable[[], str]) -> None:
    procedures.restore_procedure(revision.procedure.label)


def _undo_run(revision: Revision, act: RecordAct, who: str, at: Callable[[], str]) -> None:
    _check_unsigned(revision, act)
    withdraw_run(revision, _get_run(act).id, who, at)


def _undo_correction(revision: Revision, act: RecordAct, who: str, at: Callable[[], str]) -> None:
    _check_unsigned(revision, act)
    before = read_record(act.before)
    label, number = revision.procedure.label, _get_run(act).id
    correct(label, revision.letter, number, before, before.who, at)


def _undo_voiding(revision: Revision, act: RecordAct, who: str, at: Callable[[], str]) -> None:
    restore_run(revision.procedure.label, revision.letter, _get_run(act).id, at)


def _undo_inspection(revision: Revision, act: RecordAct, who: str, at: Callable[[], str]) -> None:
    _check_unsigned(revision, act)
    before = read_record(act.before)
    label, number = revision.procedure.label, _get_run(act).id
    restore_inspection(label, revision.letter, number, before)


def _undo_attachment(revision: Revision, act: RecordAct, who: str, at: Callable[[], str]) -> None:
    _check_unsigned(revision, act)
    run = queries.get_any_run(_get_run(act).id)
    before, document = read_record(act.before), run.document
    names = {sha for photo in before.photographs for sha in photo.list_sha256()}
    now = [sha for photo in document.photographs for sha in photo.list_sha256()]
    freed = [sha for sha in now if sha not in names]
    if document.arc_log is not None and before.arc_log is None:
        freed.append(document.arc_log.sha256)
    fields = {key: getattr(before, key) for key in (*LOG_FIELDS, *PHOTOGRAPH_FIELDS)}
    extend_record(run, replace(document, **fields), (*LOG_FIELDS, *PHOTOGRAPH_FIELDS))
    release_items(run, freed)


def _get_run(act: RecordAct) -> RunRow:
    if act.run is None:
        raise NotAllowed("The run of this change is not in the library.")
    return act.run


def _check_unsigned(revision: Revision, act: RecordAct) -> None:
    """Check that no signature covers the run of an act."""
    if is_signed_with_run(revision, _get_run(act)):
        name = f"{revision.procedure.label} {revision.letter}"
        raise NotAllowed(
            f"{name} was signed with this run, so it stays. Save a change as the next revision."
        )


_UNDO = {
    CREATED: _undo_creation,
    EDITED: _undo_edit,
    ARCHIVED: _undo_archiving,
    RETIRED: _undo_retirement,
    RECORDED: _undo_run,
    CORRECTED: _undo_correction,
    VOIDED: _undo_voiding,
    INSPECTED: _undo_inspection,
    ATTACHED: _undo_attachment,
}
