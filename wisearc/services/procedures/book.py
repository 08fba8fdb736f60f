"""A record for its page, sheet, drawings and file, from its saved data only."""

from __future__ import annotations

import json

from msgspec import Struct

from ...formats.procedure_json import write_procedure_file
from ...formats.run_json import run_file
from ...store import queries, setups
from ...store.models import Revision, RunRow
from ..set_up.checklists import format_subject
from .procedure_files import build_file

RUNS_A_PAGE, RUNS_ON_SHEET = 50, 3


class RevisionRuns(Struct, frozen=True):
    """The data next to a revision.

    A page of its runs with its number and the total, verifying runs, revisions of the procedure,
    and the last set-up.
    """

    runs: list[RunRow]
    count: int
    page: int
    pages: int
    proving: list[RunRow]
    revisions: list[Revision]
    set_at: str | None


def list_runs(revision: Revision, page: int = 0) -> RevisionRuns:
    """Return a page of the runs of a revision, limited to the last.

    Args:
        revision: The revision.
        page: Page, from 1.
    """
    count, _ = queries.measure_room(revision)
    pages = max(1, -(-count // RUNS_A_PAGE))
    at = page if 1 <= page <= pages else pages
    return RevisionRuns(
        list(queries.list_runs(revision, (at - 1) * RUNS_A_PAGE, RUNS_A_PAGE)),
        count,
        at,
        pages,
        list(queries.list_verifying_runs(revision, RUNS_ON_SHEET)),
        queries.list_revisions(revision.procedure),
        setups.set_last(format_subject(revision.procedure.label, revision.letter)),
    )


def find(number: str, letter: str | None = None) -> Revision:
    """Return a revision, or the newest.

    Args:
        number: Procedure number.
        letter: Revision letter, or None.

    Raises:
        Missing: The revision does not exist.
    """
    return queries.get_revision(number, letter)


def find_sent_revision(revision: Revision, once: str) -> str:
    """Return the revision letter of the run that was recorded with a form token, or "".

    Args:
        revision: A revision of the procedure.
        once: Token of the form.
    """
    revision_row = queries.run_sent(revision, once)
    return revision_row.revision.letter if revision_row else ""


def run_text(revision: Revision, number: int) -> str:
    """Return a run file with the joint of the run.

    Args:
        revision: The revision.
        number: Number of the run.

    Raises:
        Missing: The run does not exist.
    """
    run = queries.get_run(revision, number).document
    text = run_file(run, revision.procedure.label, revision.letter, revision.joint)
    return json.dumps(text, ensure_ascii=False, indent=2, allow_nan=False) + "\n"


def procedure_text(revision: Revision) -> str:
    """Return a revision as a procedure file, as saved."""
    return (
        json.dumps(
            write_procedure_file(build_file(revision)),
            ensure_ascii=False,
            indent=2,
            allow_nan=False,
        )
        + "\n"
    )
