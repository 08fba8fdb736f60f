"""A run at the arc written down: what is known of it filled in from its trace or its timer, the
rest told by the welder; kept as a run of its procedure.
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
from ..purge.purge_run import to_write_down
from ..weld_session.arc_source import Sources
from ..weld_session.weld_session import list_acts, score_of
from . import runs
from .arc_columns import ArcColumns
from .arc_logs import analyse_readings, summarise_arc
from .kept_files import KeptFiles
from .runs import find_last_run

# spells outside a band that are told of a run, the longest
MAX_EXCURSIONS_SHOWN = 40
# a trace that is shorter than this is none of a run
MIN_ROWS = 20
# a peak that is read further than this from what is thought to be set was set otherwise: estimate,
# a hand's sway and a logger's error are less
SET_SHARE = 0.05


class KnownRun(Struct, frozen=True):
    """What of a run is known before it is told: when, what was set, used and measured, its arc,
    what left an allowed range, and its log.
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
    """What is known of a run before it is told; the figures of its arc in words with where they
    come from; what its log says, or None.
    """

    run: KnownRun
    log: ArcLog | None
    came: RunSummary
    arc_words: tuple[tuple[str, str], ...]


def gather_known(
    row: AtArc,
    plan: Plan,
    bands: Bands | None,
    shop: Shop,
    sources: Sources,
    columns: ArcColumns,
    files: KeptFiles,
    last: Run | None,
    habit: str,
    written: bool = False,
) -> Known:
    """All that is known of a run. Parameters: last, the run of its procedure that was written down
    last; written, whether it is being written down now.
    """
    course = replay_events(score_of(plan, shop), list_acts(row), row.began)
    came = summarise_run(course, row.ended or time.time())
    log = _log_of(row, plan, bands, sources, columns, files, written)
    arc = _build_arc(came, log, course)
    run = KnownRun(
        when=date.fromtimestamp(row.began).isoformat(),
        set=_set(plan, last, log),
        used=Used(**_list_planned(plan, "used")),
        measured=_build_measured(came, log, plan),
        arc=arc,
        left_band=_list_excursions(log),
        arc_log=read_document(StoredFile, row.log, "arc_log") if row.log else None,
    )
    told = ((declared, getattr(arc, key)) for key, declared in ARC_FIGURES.items()) if arc else ()
    words = tuple(
        (declared.label, format_value(value, declared.quantity, habit))
        for declared, value in told
        if value not in (None, 0)
    )
    return Known(run, log, came, words)


def _log_of(
    row: AtArc,
    plan: Plan,
    bands: Bands | None,
    sources: Sources,
    columns: ArcColumns,
    files: KeptFiles,
    written: bool,
) -> ArcLog | None:
    """What the log says that goes with a run: one that was given, else the trace, which is kept as
    one now.
    """
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
    """Keep a log with a run at the arc. Raises StoreError."""
    sha256 = files.put_log(path)
    columns.save_log(sha256, log)
    give_log(row, name, sha256)


def give_log(row: AtArc, name: str, sha256: str) -> None:
    """Say which log goes with a run."""
    with open_transaction():
        row.log = {"file": name[:200], "sha256": sha256}
        weld_sessions.change(row.id, log=row.log)


def _build_arc(came: RunSummary, log: ArcLog | None, course: Course) -> ArcSummary | None:
    if len(course.visits) <= 1 and log is None:
        return None
    seen = log is not None and bool(log.stretches)
    timed = ArcSummary(
        by="timer",
        pool_s=max(came.pool_s, default=None),
        held_s=came.held_s,
        touched=came.touched,
        tacks=came.tacks,
        beats=came.beats,
        arc_s=None if seen else came.arc_s,
        taper_s=None if seen else came.taper_s,
        restarts=None if seen else came.restarts,
    )
    return summarise_arc(timed, log)


def _build_measured(came: RunSummary, log: ArcLog | None, plan: Plan) -> Measured:
    arc = log.seam_arc_s if log is not None and log.stretches else came.arc_s
    found: dict[str, float] = {}
    if arc >= 1:
        found["arc_time_s"] = round(arc, 1)
    if log is not None and log.peak_a:
        found["peak_a"] = round(log.peak_a, 1)
    if came.length_mm or log is not None:
        found["length_mm"] = round(came.length_mm or plan.travel.length_mm, 1)
    return Measured(**found)


def _set(plan: Plan, last: Run | None, log: ArcLog | None) -> Settings:
    """What was set: as in the last run where there is one, else as planned; what the log tells of
    the pulse in its place.
    """
    found = _list_planned(plan, "set")
    before = {key: getattr(last.set, key) for key in found} if last else {}
    found |= {key: value for key, value in before.items() if value is not None}
    pulse = (log.rate_pps, log.on_pct, log.peak_a, log.background_a) if log is not None else ()
    told = [figure for figure in pulse if figure is not None]
    if "rate_pps" in found and len(told) == 4:
        rate_pps, on_pct, peak_a, background_a = told
        found["rate_pps"], found["on_pct"] = round(rate_pps, 2), round(on_pct, 1)
        # under pulse the machine is set to the peak: where the log shows another, that is what was
        # set
        far = abs(peak_a - found["current_a"]) > SET_SHARE * found["current_a"]
        if plan.slopes.at_peak and far:
            found["current_a"] = round(peak_a, 1)
        found["background_pct"] = round(100 * background_a / peak_a, 1)
    return Settings(**found)


def _list_planned(plan: Plan, part: str) -> dict[str, Any]:
    return {
        name.partition(".")[2]: value
        for name, (value, _) in get_planned_values(plan).items()
        if name.startswith(f"{part}.")
    }


def _list_excursions(log: ArcLog | None) -> tuple[Excursion, ...]:
    spells = log.left_band if log is not None else ()
    longest = sorted(spells, key=lambda one: one.start_s - one.end_s)[:MAX_EXCURSIONS_SHOWN]
    return tuple(sorted(longest, key=lambda one: one.start_s))


def write(
    row: AtArc,
    run: Run,
    plan: Plan,
    revision: Revision | None,
    shop: Shop,
    once: str,
    purge: int,
    as_done: bool = False,
    looked: bool = False,
) -> Revision:
    """Write a run down with its procedure; a plan that is none yet is kept as a draft first.
    Parameters: as_done, looked, as `keep_as_done` takes them. Returns the revision it stands with.
    Raises InputError, StoreError.
    """
    with open_transaction():
        standing = revision
        if standing is None:
            standing = procedures.keep_draft(make_joint(plan.joint), shop, once=f"{row.once}-draft")
        label, letter = standing.procedure.label, standing.letter
        draft = None
        if as_done:
            draft = runs.keep_as_done(label, letter, run, shop, once, purge=purge, looked=looked)
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


def _find_newest(standing: Revision) -> RunRow:
    found = queries.find_last_run(standing)
    assert found is not None
    return found


def get_written_number(revision: Revision) -> int:
    """The number of the run of a revision that was written down last."""
    return int(_find_newest(revision).id)


def find_last(revision: Revision | None) -> Run | None:
    """The run of a revision that was written down last, or None."""
    return None if revision is None else find_last_run(revision)


def purge_of(what: str) -> int:
    """The number of the purge that goes with a run of something, or 0."""
    found = to_write_down(what)
    return int(found.id) if found is not None else 0


def describe_parts(run: KnownRun, habit: str) -> Sequence[tuple[str, str]]:
    """What is filled in of a run, in words: the figures of set, used and measured."""
    told = (
        (figure, getattr(getattr(run, figure.part), figure.key)) for figure in list_run_figures()
    )
    return [
        (figure.label, format_value(value, figure.quantity, habit))
        for figure, value in told
        if value is not None
    ]


def draw_flaws() -> dict[str, str]:
    """The drawing of each fault, as SVG."""
    return {key: draw_fault(key, words).svg for key, words in catalogue.load_flaws().items()}
