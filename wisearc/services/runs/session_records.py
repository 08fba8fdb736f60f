"""The record of a weld session.

Known values from its trace or timer, the rest from the welder, saved as a run of its procedure.
"""

import time
from collections.abc import Sequence
from contextlib import nullcontext, suppress
from datetime import date
from pathlib import Path
from typing import Annotated, Any

from msgspec import Struct

from ...core import catalogue
from ...core.arc_log.arc_log import ArcLog
from ...core.errors import InputError
from ...core.joint.data import make_joint
from ...core.plan.plan import Plan
from ...core.run.run import (
    ARC_FIGURES,
    MAX_EXCURSIONS,
    ArcSummary,
    Excursion,
    Measured,
    Run,
    Settings,
    StoredFile,
    Used,
    get_planned_values,
    list_run_figures,
)
from ...core.run.verification import Bands
from ...core.schema.documents import read_document
from ...core.schema.entries import Entry
from ...core.schema.figures import format_value
from ...core.shop.shop import Shop
from ...core.weld_session.course import Course, RunSummary, replay_events, summarise_run
from ...drawings.runs.faults import draw_fault
from ...formats.arc_log.arc_csv import read_arc_csv
from ...store import queries, weld_sessions
from ...store.database import open_transaction
from ...store.errors import DiskFull, ReadOnly
from ...store.models import AtArc, Revision, RunRow
from ..jobs import jobs
from ..procedures import book, procedures
from ..purge.purge_run import find_unrecorded
from ..weld_session.arc_source import Sources
from ..weld_session.weld_session import build_subject_steps, list_acts
from . import runs
from .arc_columns import ArcColumns
from .arc_logs import analyse_readings, summarise_arc
from .kept_files import KeptFiles
from .runs import find_last_run

# The maximum number of saved excursions, the longest.
MAX_SAVED_EXCURSIONS = 40
# A shorter trace belongs to no run.
MIN_ROWS = 20
# A peak outside this tolerance was set differently: estimate, above the variation of a welder and
# the error of a logger.
SET_SHARE = 0.05


class KnownRun(Struct, frozen=True):
    """The known values of a run before its record.

    Date, settings, materials, measurements, arc, excursions, log.
    """

    when: Annotated[str, Entry("date", required=True)]
    set: Annotated[Settings, Entry("object", of=Settings)] = Settings()
    used: Annotated[Used, Entry("object", of=Used)] = Used()
    measured: Annotated[Measured, Entry("object", of=Measured)] = Measured()
    arc: Annotated[ArcSummary | None, Entry("object", of=ArcSummary)] = None
    left_band: Annotated[
        tuple[Excursion, ...], Entry("objects", of=Excursion, most=MAX_EXCURSIONS)
    ] = ()
    arc_log: Annotated[StoredFile | None, Entry("object", of=StoredFile)] = None


class Known(Struct, frozen=True):
    """The known values of a run, its arc figures as text with their origin, and its log or None."""

    run: KnownRun
    log: ArcLog | None
    came: RunSummary
    arc_text: tuple[tuple[str, str], ...]


def gather_known(
    row: AtArc,
    plan: Plan,
    bands: Bands | None,
    shop: Shop,
    sources: Sources,
    columns: ArcColumns,
    files: KeptFiles,
    last: Run | None,
    units: str,
    written: bool = False,
) -> Known:
    """Return the known values of a run.

    Args:
        row: The weld session.
        plan: The plan.
        bands: Its ranges, or None.
        shop: The shop.
        sources: The power sources.
        columns: The columns of the logs.
        files: The files of runs.
        last: The last run of the procedure, or None.
        units: Unit system.
        written: Whether the run is recorded now.
    """
    course = replay_events(build_subject_steps(plan, shop), list_acts(row), row.began)
    summary = summarise_run(course, row.ended or time.time())
    log = _find_log(row, plan, bands, sources, columns, files, written)
    arc = _build_arc(summary, log, course)
    run = KnownRun(
        when=date.fromtimestamp(row.began).isoformat(),
        set=_set(plan, last, log),
        used=Used(**_list_planned(plan, "used")),
        measured=_build_measured(summary, log, plan),
        arc=arc,
        left_band=list_excursions(log),
        arc_log=read_document(StoredFile, row.log, "arc_log") if row.log else None,
    )
    figures = (
        ((declared, getattr(arc, key)) for key, declared in ARC_FIGURES.items()) if arc else ()
    )
    text = tuple(
        (declared.label, format_value(value, declared.quantity, units))
        for declared, value in figures
        if value not in (None, 0)
    )
    return Known(run, log, summary, text)


def _find_log(
    row: AtArc,
    plan: Plan,
    bands: Bands | None,
    sources: Sources,
    columns: ArcColumns,
    files: KeptFiles,
    written: bool,
) -> ArcLog | None:
    """Return the log of a run: an uploaded one, or else the trace, which is saved as one."""
    if row.log:
        return columns.log(row.log["sha256"])
    trace = sources.file(row.id, row.began)
    if not trace.exists():
        return None
    try:
        readings = read_arc_csv(trace)
    except InputError:
        return None
    if readings.rows < MIN_ROWS:
        return None
    log = analyse_readings(readings, plan, bands)
    if row.ended is not None or written:
        # On a full disk the page shows the log without saving it.
        with nullcontext() if written else suppress(DiskFull, ReadOnly):
            keep_log(row, trace, f"run-{row.id}.csv", files, columns, log)
    return log


def keep_log(
    row: AtArc,
    path: Path,
    name: str,
    files: KeptFiles,
    columns: ArcColumns,
    log: ArcLog,
) -> None:
    """Save a log with a weld session.

    Args:
        row: The weld session.
        path: The log.
        name: Its name.
        files: The files of runs.
        columns: The columns of the logs.
        log: The analysis.

    Raises:
        StoreError: It cannot be saved.
    """
    sha256 = files.put_log(path)
    columns.save_log(sha256, log)
    give_log(row, name, sha256)


def give_log(row: AtArc, name: str, sha256: str) -> None:
    """Set the log of a weld session.

    Args:
        row: The weld session.
        name: Name of the log.
        sha256: Its SHA-256.
    """
    with open_transaction():
        row.log = {"file": name[:200], "sha256": sha256}
        weld_sessions.change(row.id, log=row.log)


def _build_arc(summary: RunSummary, log: ArcLog | None, course: Course) -> ArcSummary | None:
    if len(course.visits) <= 1 and log is None:
        return None
    has_arc = log is not None and bool(log.stretches)
    # The times of the clock in timed mode are those of the plan, and no measurement.
    is_measured = not summary.is_timed
    has_times = is_measured and not has_arc
    timed = ArcSummary(
        by="timer",
        pool_s=max(summary.pool_s, default=None) if is_measured else None,
        held_s=summary.held_s if is_measured else None,
        touched=summary.touched,
        tacks=summary.tacks,
        beats=summary.beats if is_measured else None,
        arc_s=summary.arc_s if has_times else None,
        taper_s=summary.taper_s if has_times else None,
        restarts=None if has_arc else summary.restarts,
    )
    return summarise_arc(timed, log)


def _build_measured(summary: RunSummary, log: ArcLog | None, plan: Plan) -> Measured:
    if log is None and summary.is_timed:
        return Measured()
    arc = log.seam_arc_s if log is not None and log.stretches else summary.arc_s
    figures: dict[str, float] = {}
    if arc >= 1:
        figures["arc_time_s"] = round(arc, 1)
    if log is not None and log.peak_a:
        figures["peak_a"] = round(log.peak_a, 1)
    if summary.length_mm or log is not None:
        figures["length_mm"] = round(summary.length_mm or plan.travel.length_mm, 1)
    return Measured(**figures)


def _set(plan: Plan, last: Run | None, log: ArcLog | None) -> Settings:
    """Return the settings: of the last run, or else as planned, with the pulse of the log."""
    figures = _list_planned(plan, "set")
    before = {key: getattr(last.set, key) for key in figures} if last else {}
    figures |= {key: value for key, value in before.items() if value is not None}
    pulse = (log.rate_pps, log.on_pct, log.peak_a, log.background_a) if log is not None else ()
    pulse_figures = [figure for figure in pulse if figure is not None]
    if "rate_pps" in figures and len(pulse_figures) == 4:
        rate_pps, on_pct, peak_a, background_a = pulse_figures
        figures["rate_pps"], figures["on_pct"] = round(rate_pps, 2), round(on_pct, 1)
        # With a pulse the machine is set to the peak, so a different peak in the log is the
        # setting.
        is_distant = abs(peak_a - figures["current_a"]) > SET_SHARE * figures["current_a"]
        if plan.slopes.at_peak and is_distant:
            figures["current_a"] = round(peak_a, 1)
        figures["background_pct"] = round(100 * background_a / peak_a, 1)
    return Settings(**figures)


def _list_planned(plan: Plan, part: str) -> dict[str, Any]:
    return {
        name.partition(".")[2]: value
        for name, (value, _) in get_planned_values(plan).items()
        if name.startswith(f"{part}.")
    }


def list_excursions(log: ArcLog | None) -> tuple[Excursion, ...]:
    """Return the longest excursions of a log for its run, in the order of time."""
    spells = log.left_band if log is not None else ()
    worst = sorted(spells, key=lambda excursion: excursion.start_s - excursion.end_s)[
        :MAX_SAVED_EXCURSIONS
    ]
    return tuple(sorted(worst, key=lambda excursion: excursion.start_s))


def write(
    row: AtArc,
    run: Run,
    plan: Plan,
    revision: Revision | None,
    shop: Shop,
    once: str,
    purge: int,
    is_as_done: bool = False,
    is_checked: bool = False,
) -> Revision:
    """Record a run with its procedure.

    A plan without a procedure is first saved as a draft.

    Args:
        row: The weld session.
        run: The run.
        plan: The plan.
        revision: The revision, or None.
        shop: The shop.
        once: Token of the form.
        purge: Number of the purge, or 0.
        is_as_done: As for `keep_as_done`.
        is_checked: As for `keep_as_done`.

    Returns:
        The revision of the run.

    Raises:
        InputError: A value is wrong.
        StoreError: The run cannot be saved.
    """
    with open_transaction():
        target = revision
        if target is None:
            target = procedures.keep_draft(make_joint(plan.joint), shop, once=f"{row.once}-draft")
        label, letter = target.procedure.label, target.letter
        draft = None
        if is_as_done:
            draft = runs.keep_as_done(
                label, letter, run, shop, once, purge=purge, is_checked=is_checked
            )
        else:
            runs.record_run(label, letter, run, once, purge=purge)
        recorded = book.find(label, letter)
        _finish(row, recorded)
    return recorded if draft is None else draft


def _finish(row: AtArc, recorded: Revision) -> None:
    """Connect a weld session, and the job that it belongs to, to the newest run of a revision.

    Args:
        row: The weld session.
        recorded: The revision that the run was recorded with.
    """
    newest = _find_newest(recorded)
    weld_sessions.change(row.id, run=newest, ended=row.ended or time.time())
    if row.job:
        jobs.run_written(row.job, recorded, newest.document.who)


def _find_newest(revision: Revision) -> RunRow:
    run = queries.find_last_run(revision)
    assert run is not None
    return run


def get_written_number(revision: Revision) -> int:
    """Return the number of the last recorded run of a revision."""
    return int(_find_newest(revision).id)


def find_last(revision: Revision | None) -> Run | None:
    """Return the last recorded run of a revision, or None."""
    return None if revision is None else find_last_run(revision)


def find_purge_number(subject: str) -> int:
    """Return the number of the purge for the next run of a subject, or 0."""
    purge = find_unrecorded(subject)
    return int(purge.id) if purge is not None else 0


def describe_parts(run: KnownRun, units: str) -> Sequence[tuple[str, str]]:
    """Return the known figures of a run as text: settings, materials, measurements.

    Args:
        run: The known values.
        units: Unit system.
    """
    figures = (
        (figure, getattr(getattr(run, figure.part), figure.key)) for figure in list_run_figures()
    )
    return [
        (figure.label, format_value(value, figure.quantity, units))
        for figure, value in figures
        if value is not None
    ]


def draw_flaws() -> dict[str, str]:
    """Return the drawing of each flaw, as SVG."""
    return {key: draw_fault(key, text).svg for key, text in catalogue.load_flaws().items()}
