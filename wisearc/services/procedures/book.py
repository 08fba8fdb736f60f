"""A record as a page shows it, its sheet, its drawings and its file: from what was kept and nothing
else.
"""

from __future__ import annotations

import json

from msgspec import Struct

from ...formats.procedure_json import write_procedure_file
from ...formats.run_json import run_file
from ...store import queries, setups
from ...store.models import Revision, RunRow
from ..set_up.setting_up import format_subject
from .procedures import build_file

RUNS_A_PAGE, RUNS_ON_SHEET = 50, 3


class RevisionRuns(Struct, frozen=True):
    """What stands beside a revision: a page of its runs and which page of how many, the runs that
    prove it, its procedure's revisions, when it was set up last.
    """

    runs: list[RunRow]
    count: int
    page: int
    pages: int
    proving: list[RunRow]
    revisions: list[Revision]
    set_at: str | None


def list_runs(revision: Revision, page: int = 0) -> RevisionRuns:
    """A page of a revision's runs, from 1, the last where there is no such."""
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
    """A revision, or the newest. Raises Missing."""
    return queries.get_revision(number, letter)


def find_sent_revision(revision: Revision, once: str) -> str:
    """The letter of the revision, of one's procedure, that a run was recorded with which was sent
    with a form's token; "" where none was.
    """
    found = queries.run_sent(revision, once)
    return found.revision.letter if found else ""


def run_text(revision: Revision, number: int) -> str:
    """A run of a revision as the text of a run file, with its joint. Raises Missing."""
    run = queries.run_of(revision, number).document
    told = run_file(run, revision.procedure.label, revision.letter, revision.joint)
    return json.dumps(told, ensure_ascii=False, indent=2, allow_nan=False) + "\n"


def procedure_text(revision: Revision) -> str:
    """A revision as the text of a procedure file, as it was kept."""
    return (
        json.dumps(
            write_procedure_file(build_file(revision)),
            ensure_ascii=False,
            indent=2,
            allow_nan=False,
        )
        + "\n"
    )
