"""A record for its page, sheet, drawings and file, from its saved data only."""

from __future__ import annotations

import json

from msgspec import Struct

from ...formats.procedure_json import write_procedure_file
from ...formats.run_json import run_file
from ...store import jobs as store_jobs
from ...store import queries, setups
from ...store.models import JobRow, Revision, RunRow
from ..set_up.checklists import format_subject
from .procedure_files import build_file

RUNS_A_PAGE, RUNS_ON_SHEET = 50, 3
RUNS_IN_CHART, RUNS_IN_TIMELINE = 24, 200


class RunPage(Struct, frozen=True):
    """A page of the runs of a revision: the runs, the total number, page and number of pages."""

    runs: list[RunRow]
    count: int
    page: int
    pages: int


class RevisionData(Struct, frozen=True):
    """The data next to a revision.

    Attributes:
        proving: The last good runs.
        revisions: Revisions of the procedure without their contents, oldest first.
        set_at: Time of the last set-up, or None.
        run_count: Number of valid runs.
        good_count: Number of valid good runs.
        photograph_count: Number of photographs of valid runs.
        jobs: The jobs that weld it.
    """

    proving: list[RunRow]
    revisions: list[Revision]
    set_at: str | None
    run_count: int
    good_count: int
    photograph_count: int
    jobs: list[JobRow]


def load_revision_data(revision: Revision) -> RevisionData:
    """Return the data next to a revision.

    Args:
        revision: The revision.
    """
    label = revision.procedure.label
    return RevisionData(
        list(queries.list_verifying_runs(revision, RUNS_ON_SHEET)),
        queries.list_revision_heads(revision.procedure),
        setups.set_last(format_subject(label, revision.letter)),
        *queries.measure_run_counts(revision),
        store_jobs.list_users(label, revision.letter),
    )


def list_runs(revision: Revision, page: int = 0) -> RunPage:
    """Return a page of the runs of a revision, limited to the last.

    Args:
        revision: The revision.
        page: Page, from 1.
    """
    count, _ = queries.measure_room(revision)
    pages = max(1, -(-count // RUNS_A_PAGE))
    at = page if 1 <= page <= pages else pages
    runs = list(queries.list_runs(revision, (at - 1) * RUNS_A_PAGE, RUNS_A_PAGE))
    return RunPage(runs, count, at, pages)


def find_run_page(revision: Revision, number: int) -> int | None:
    """Return the page of a run, from 1, or None for the last one.

    Args:
        revision: The revision.
        number: Number of the run.

    Raises:
        Missing: The run does not exist.
    """
    count, _ = queries.measure_room(revision)
    if count <= RUNS_A_PAGE:
        queries.get_run(revision, number)
        return None
    return queries.find_position(queries.get_run(revision, number)) // RUNS_A_PAGE + 1


def list_recorded_evidence(revision: Revision) -> list[RunRow]:
    """Return the run that verified a revision, then its last good runs."""
    verifying = queries.find_verifying_run(revision)
    last = queries.list_verifying_runs(revision, RUNS_ON_SHEET + 1)
    rest = [run for run in last if verifying is None or run.id != verifying.id]
    return rest if verifying is None else [verifying, *rest]


def list_last_runs(revision: Revision) -> list[RunRow]:
    """Return the last valid runs of a revision for its chart, oldest first."""
    return queries.list_last_valid_runs(revision, RUNS_IN_CHART)


def list_photographed_runs(revision: Revision) -> list[RunRow]:
    """Return the valid runs of a revision that have photographs, the newest first."""
    return queries.list_photographed_runs(revision)


def list_recorded_runs(revision: Revision) -> list[RunRow]:
    """Return the last recorded runs of the procedure of a revision, also voided ones."""
    return queries.list_recorded_runs(revision.procedure, RUNS_IN_TIMELINE)


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
