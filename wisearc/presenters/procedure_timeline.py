"""The changes of a procedure: its events in time, and its revisions compared field by field."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

from msgspec import Struct

from ..core.run.signature import SIGNING_ROLES
from ..services.errors import StoreError
from ..services.procedures.book import find, list_recorded_runs
from ..services.procedures.procedures import get_plan
from ..services.procedures.states import DRAFT
from ..services.records import Revision, RunRow
from .comparison import Row, compare
from .joint_differences import list_joint_rows

# Estimate: the last comparisons fit on a page. Earlier ones have a link.
MAX_COMPARED = 3


class Event(Struct, frozen=True):
    """An event of a procedure: time UTC, text, person or "", and the run or 0."""

    when: str
    text: str
    who: str = ""
    letter: str = ""
    run: int = 0


class RevisionChange(Struct, frozen=True):
    """A revision compared with the one before: letters, changed rows, and a summary or error."""

    before: str
    after: str
    rows: list[Row]
    summary: str


def list_events(revision: Revision, revisions: Sequence[Revision]) -> list[Event]:
    """Return the events of a procedure, the newest first.

    Args:
        revision: A revision of the procedure.
        revisions: All its revisions.
    """
    procedure = revision.procedure
    letters = {row.id: row.letter for row in revisions}
    events = [Event(procedure.created_at, f"{procedure.label} was created.")]
    for row in revisions:
        events += _list_revision_events(row)
    for run in list_recorded_runs(revision):
        events += _list_run_events(run, letters[run.revision.id])
    return sorted(events, key=lambda event: event.when, reverse=True)


def _list_revision_events(row: Revision) -> Iterator[Event]:
    source = f" It was imported as {row.taken_as}." if row.taken_as else ""
    if row.received_from:
        source += f" From {row.received_from}."
    yield Event(row.changed_at, f"Revision {row.letter} was saved.{source}", letter=row.letter)
    for entry in row.signatures:
        role = SIGNING_ROLES.get(str(entry.get("role")), "signer")
        text = f"Revision {row.letter} was signed as {role}."
        yield Event(str(entry.get("when", "")), text, str(entry.get("who", "")), row.letter)
    if row.proved_at:
        yield Event(row.proved_at, f"Revision {row.letter} was verified.", letter=row.letter)
    if row.removed_at:
        verb = "archived" if row.status == DRAFT else "retired"
        yield Event(row.removed_at, f"Revision {row.letter} was {verb}.", letter=row.letter)


def _list_run_events(run: RunRow, letter: str) -> Iterator[Event]:
    record = run.record
    who = str(record.get("who", ""))
    result = "good" if run.good else "not good"
    text = f"Run of {run.made_on} with revision {letter}: {result}."
    yield Event(run.kept_at, text, who, letter, run.id)
    for correction in run.corrections:
        text = f"Run of {run.made_on} was corrected."
        yield Event(str(correction["when"]), text, str(correction["who"]), letter, run.id)
    if run.voided_at:
        text = f"Run of {run.made_on} was voided."
        yield Event(run.voided_at, text, run.voided_by or "", letter, run.id)


def list_changes(number: str, heads: Sequence[Revision], units: str) -> list[RevisionChange]:
    """Return the last revisions, each compared with the one before, the newest first.

    Args:
        number: Procedure number.
        heads: Its revisions, oldest first.
        units: Unit system.
    """
    last = heads[-MAX_COMPARED - 1 :]
    revisions = [find(number, head.letter) for head in last] if len(last) > 1 else []
    pairs = reversed(list(pairwise(revisions)))
    return [_compare_revisions(before, after, units) for before, after in pairs]


def _compare_revisions(before: Revision, after: Revision, units: str) -> RevisionChange:
    names = before.letter, after.letter
    try:
        compared = compare(get_plan(before), get_plan(after), units, names)
    except StoreError as error:
        return RevisionChange(*names, [], str(error))
    rows = list_joint_rows(before.joint, after.joint, units)
    rows += [row for row in (*compared.answers, *compared.figures) if row.differs]
    return RevisionChange(*names, rows, compared.summary)
