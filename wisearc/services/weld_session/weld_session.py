"""Weld sessions.

Steps, events saved once from any device, summaries, and the live data of a power source.
"""

import math
import re
import time
from collections.abc import Callable, Mapping, Sequence
from typing import Annotated, Any

from msgspec import Struct
from msgspec.structs import asdict

from ...core.arc_log.limits import format_excursion, get_limits
from ...core.arc_log.live import Row
from ...core.errors import InputError
from ...core.jobs.job import MAX_RUN_NAME_LENGTH, read_run_name
from ...core.plan.plan import Plan
from ...core.quantities import Quantity, format_count, format_plain
from ...core.run.run import Run, run_figures
from ...core.run.verification import Bands
from ...core.schema.documents import read_document
from ...core.schema.entries import Entry, Own
from ...core.schema.figures import format_value
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...core.weld_session.course import (
    MAX_ACTS,
    Course,
    RunEvent,
    RunSummary,
    replay_events,
    summarise_run,
)
from ...core.weld_session.pacer import Guide, build_pacer
from ...core.weld_session.steps import PHASES, RunSteps, Step, StepFigure, build_steps
from ...store import purges, weld_sessions
from ...store.database import open_transaction
from ...store.errors import Missing
from ...store.models import AtArc
from ..purge.purge_run import parse_port
from ..set_up.tacking import TACKS, list_bar_runs
from .arc_source import Source, Sources

Clock = Callable[[], float]
# An older session is not in progress.
FRESH_S = 24 * 3600.0
MAX_PERSON_LENGTH = 60
_ID = r"[A-Za-z0-9-]{8,60}"
# A smaller relative difference counts as equal.
SAME = 0.01
# The clock of a device can differ by this time.
MAX_AHEAD_S = 24 * 3600.0
MAX_SKEW_S = 10 * 365 * 24 * 3600.0


def _read_own_number(name: str, value: Any) -> str:
    if not isinstance(value, str) or not re.fullmatch(_ID, value):
        raise InputError(name, value, "must be 8 to 60 letters, digits and hyphens")
    return value


_OWN_NUMBER = Own(_read_own_number, str, lambda: {"type": "string", "pattern": _ID})


def _declare_moment() -> Entry:
    return Entry("number", low=0, high=1e11, required=True)


class SentAct(Struct, frozen=True):
    """An event as a device sends it.

    Its number on the device, its time by that clock, its step, and its key.
    """

    id: Annotated[str, Entry("own", own=_OWN_NUMBER, required=True)]
    at: Annotated[float, _declare_moment()]
    step: Annotated[str, Entry("text", high=40, required=True)]
    key: Annotated[str, Entry("text", high=20, required=True)]


class Sent(Struct, frozen=True, kw_only=True):
    """A message of a device.

    Subject, run of a job, number of the session on the device, person, device; start of the session
    and present time by that clock, s since 1970; events.
    """

    what: Annotated[str, Entry("text", high=4000, required=True)]
    job: Annotated[str, Entry("text", high=MAX_RUN_NAME_LENGTH)] = ""
    once: Annotated[str, Entry("own", own=_OWN_NUMBER, required=True)]
    who: Annotated[str, Entry("text", high=MAX_PERSON_LENGTH)] = ""
    device: Annotated[str, Entry("own", own=_OWN_NUMBER, required=True)]
    began: Annotated[float, _declare_moment()]
    now: Annotated[float, _declare_moment()]
    acts: Annotated[tuple[SentAct, ...], Entry("objects", of=SentAct, most=MAX_ACTS, required=True)]

    def check(self, where: str) -> None:
        """Check the name of a run of a job.

        Raises:
            InputError: The name is not valid.
        """
        if self.job:
            read_run_name(self.job)


class Figure(Struct, frozen=True):
    """A figure in use: label, value as text, and its value in the last run or ""."""

    label: str
    text: str
    was: str


class RunView(Struct, frozen=True):
    """The contents of the weld page.

    Number of the session (0 before its first event) and its number on the device, steps, course,
    guide, figures of a step.
    """

    number: int
    once: str
    began: float
    title: str
    plan: Plan
    score: RunSteps
    course: Course
    acts: Sequence[RunEvent]
    pace: Guide
    port: int | None
    figures: Mapping[str, tuple[Figure, ...]]
    came: RunSummary

    @property
    def phases(self) -> list[tuple[str, str, str]]:
        """Return the phases of this run: key, label, state ("done", "now", "next")."""
        used = list(dict.fromkeys(s.phase for s in self.score.steps))
        now = self.course.step.phase
        been = {self.score.step(v.step).phase for v in self.course.visits[:-1]}
        return [
            (key, PHASES[key], "now" if key == now else "done" if key in been else "next")
            for key in PHASES
            if key in used
        ]


def build_subject_steps(plan: Plan, shop: Shop) -> RunSteps:
    """Return the steps of a run of a plan, with the bars in stock.

    Args:
        plan: The plan.
        shop: The shop.
    """
    return build_steps(plan, list_bar_runs(plan, shop))


def find_current(subject: str, job: str, clock: Clock = time.time) -> AtArc | None:
    """Return the session of a subject in progress, or done and not recorded.

    None: no such session in the last day.

    Args:
        subject: The plan or procedure.
        job: Name of the run of a job, or "".
        clock: Current time, s since 1970.
    """
    session = weld_sessions.find_newest(subject, job)
    return session if session is not None and clock() - session.began < FRESH_S else None


def get_run(number: int) -> AtArc:
    """Return a session.

    Raises:
        Missing: The session does not exist.
    """
    session = weld_sessions.find_run(number)
    if session is None:
        raise Missing("There is no such run. Start one from Set up.")
    return session


def find_left_run(number: int) -> AtArc | None:
    """Return a session that was left and not resumed, or None."""
    session = weld_sessions.find_run(number)
    return session if session is not None and session.left_at is not None else None


def list_unrecorded(maximum: int = 12, clock: Clock = time.time) -> list[tuple[AtArc, bool]]:
    """Return the sessions that were neither recorded nor left, newest first.

    Each has a flag: its page continues with it.

    Args:
        maximum: Maximum number.
        clock: Current time, s since 1970.
    """
    rows = weld_sessions.open_runs(maximum)
    return [(row, row.ended is None and _is_in_progress(row, clock)) for row in rows]


def _is_in_progress(row: AtArc, clock: Clock) -> bool:
    session = find_current(row.what, row.job, clock)
    return session is not None and session.id == row.id


def view(
    row: AtArc | None,
    once: str,
    plan: Plan,
    shop: Shop,
    units: str,
    last: Run | None = None,
    clock: Clock = time.time,
) -> RunView:
    """Return the contents of the weld page.

    Args:
        row: The session, or None before its start.
        once: The number of a new session.
        plan: The plan.
        shop: The shop.
        units: Unit system.
        last: The last recorded run, or None.
        clock: Current time, s since 1970.
    """
    score, now = build_subject_steps(plan, shop), clock()
    acts = list_acts(row) if row is not None else []
    began = row.began if row is not None else now
    course = replay_events(score, acts, began)
    figures = {
        s.key: tuple(_build_figure(key, last, units) for key in s.shown) for s in score.steps
    }
    return RunView(
        row.id if row else 0,
        row.once if row else once,
        began,
        plan.title.text(units),
        plan,
        score,
        course,
        acts,
        build_pacer(plan),
        row.port if row else None,
        figures,
        summarise_run(course, now),
    )


def list_acts(row: AtArc) -> list[RunEvent]:
    """Return the events of a session by the clock of this computer."""
    return [
        RunEvent(a.id, a.device, a.at + row.clocks.get(a.device, 0.0), a.step, a.key)
        for a in weld_sessions.list_acts(row.id)
    ]


def _build_figure(displayed: StepFigure, last: Run | None, units: str) -> Figure:
    part, _, key = displayed.run.partition(".")
    before = run_figures()[part][key].of(last) if last is not None and part else None
    value = displayed.value
    differs = before is not None and abs(before - value.value) > SAME * max(
        abs(value.value), abs(before)
    )
    return Figure(
        displayed.label,
        value.text(units),
        format_value(before, value.kind, units) if differs else "",
    )


def read_sent(data: Any) -> Sent:
    """Parse a message of a device.

    Raises:
        InputError: The message is wrong.
    """
    return read_document(Sent, data, document="a run that a device sends")


def receive_entries(
    sent: Sent, plan: Plan, title: str, shop: Shop, clock: Clock = time.time
) -> AtArc:
    """Save the events of a message, each once however often it is sent, and return the session.

    The session is created if necessary. The clock of a device is corrected by its present time.

    Args:
        sent: The message.
        plan: The plan.
        title: Title of the subject.
        shop: The shop.
        clock: Current time, s since 1970.

    Raises:
        InputError: An event is impossible.
    """
    late = clock() - sent.now
    if not math.isfinite(late) or abs(late) > MAX_SKEW_S:
        raise InputError("now", sent.now, "is wrong by years. Set the clock of the device")
    moments = [("began", sent.began), *(("at", act.at) for act in sent.acts)]
    for field, moment in moments:
        if moment + late > clock() + MAX_AHEAD_S:
            raise InputError(
                field, moment, "is more than a day in the future. Set the clock of the device"
            )
    with open_transaction():
        row = weld_sessions.find_run_by_token(sent.once) or weld_sessions.begin(
            sent.what, title, sent.job, sent.once, sent.who, sent.began + late
        )
        if row.what != sent.what:
            raise InputError("once", sent.once, "belongs to another run. Open Weld again")
        if row.run is None:
            if len(weld_sessions.list_acts(row.id)) + len(sent.acts) > MAX_ACTS:
                raise InputError(
                    "acts", f"more than {MAX_ACTS}", "exceed the maximum of one run. Start another"
                )
            # A difference includes the time of the transmission. The minimum is the error of the
            # clock.
            row.clocks = {**row.clocks, sent.device: min(late, row.clocks.get(sent.device, late))}
            weld_sessions.change(row.id, clocks=row.clocks)
            weld_sessions.add_acts(row.id, sent.device, [asdict(act) for act in sent.acts])
            # A session that a device continues was not left.
            if row.left_at is not None and any(a.at + late > row.left_at for a in sent.acts):
                weld_sessions.change(row.id, left_at=None)
            _apply_consequences(row, plan, shop)
    return weld_sessions.find_run_by_token(sent.once) or row


def _apply_consequences(row: AtArc, plan: Plan, shop: Shop) -> None:
    """Apply the consequences of a session: ticked bench lines, arc times of the purge, the end."""
    course = replay_events(build_subject_steps(plan, shop), list_acts(row), row.began)
    ended = {v.step for v in course.visits if v.end is not None}
    done = {s.line for s in course.score.steps if s.line and s.key in ended}
    done |= {
        f"weld-{v.step.partition('-')[2]}"
        for v in course.of("hold")
        if not v.step.endswith("-again")
    }
    for line in sorted(done - set(purges.list_ticks(row.what, TACKS))):
        purges.tick(row.what, TACKS, line, True)
    _report_to_purge(row.what, course)
    weld_sessions.change(row.id, ended=course.visits[-1].start if course.done else None)


def _report_to_purge(subject: str, course: Course) -> None:
    """Report the start and the end of the arc to a purge in progress."""
    purge = purges.find_newest_purge(subject)
    if purge is None or purge.ended is not None:
        return
    pools = course.of("pool")
    if pools and purge.started is None:
        purges.change_purge(purge.id, started=max(purge.began, pools[0].start))
    over = [v.start for v in course.visits if v.step in ("wait", "done")]
    if over and purge.arc_off is None and pools:
        holds = [v.start for v in course.of("hold")]
        purges.change_purge(purge.id, arc_off=max([*holds, pools[0].start + 0.1, purge.began]))


def connect(row: AtArc, port_text: str) -> None:
    """Connect a run to a power source on a port of this computer, or to none.

    Args:
        row: The session.
        port_text: The typed port.

    Raises:
        InputError: The port is not valid.
    """
    port = parse_port(port_text, "power source")
    with open_transaction():
        weld_sessions.change(row.id, port=port)


def stop_run(row: AtArc, sources: Sources, clock: Clock = time.time) -> None:
    """Leave a session.

    It is no longer in progress, and can be resumed.

    Args:
        row: The session.
        sources: The power sources.
        clock: Current time, s since 1970.
    """
    with open_transaction():
        row.left_at = clock()
        weld_sessions.change(row.id, left_at=row.left_at)
    sources.release(row.id)


def resume_run(row: AtArc) -> None:
    """Resume a session that was left."""
    with open_transaction():
        weld_sessions.change(row.id, left_at=None)


def get_source(row: AtArc, plan: Plan, sources: Sources) -> Source | None:
    """Return the power source of a session, or None.

    It is released at the end.

    Args:
        row: The session.
        plan: The plan.
        sources: The power sources.
    """
    on = row.run is None and row.left_at is None and row.ended is None
    return sources.of(row.id, row.port, row.began, on, plan.heat.arc_voltage_v)


class Traced(Struct, frozen=True):
    """The live data of a trace.

    State of the source, whether the arc is on and since when, arc time s, lines of (label, text),
    excursions, and new rows.
    """

    state: str
    words: str
    on: bool
    turned_s: float
    arc_s: float
    facts: tuple[tuple[str, str], ...]
    left: tuple[str, ...]
    rows: Sequence[Row]


def build_trace(
    source: Source,
    plan: Plan,
    bands: Bands | None,
    after_s: float,
    left_l: float | None,
    units: str,
) -> Traced:
    """Return the live data of a power source.

    Args:
        source: The source.
        plan: The plan.
        bands: Its ranges, or None.
        after_s: Time of the last known row, s.
        left_l: Argon in the cylinder at the start, L, or None.
        units: Unit system.
    """
    state = source.standing(after_s)
    live, held = state.live, get_limits(plan, bands)
    log = source.summarise_recent(held)
    facts = [
        ("Arc time", _format_clock(live.arc_s)),
        ("Mean current", _format_amps(live.mean_a)),
        ("Heat, kJ", _format_heat(live.energy_kj, live.arc_s, plan)),
    ]
    used = live.gas_s * plan.gas.flow_l_min / 60
    argon = ("Argon used", used) if left_l is None else ("Argon left", max(0.0, left_l - used))
    facts.append((argon[0], Quantity(argon[1], "volume").text(units)))
    if log is not None and live.on:
        if log.rate_pps:
            facts.append(
                ("Pulse, peak time", f"{format_plain(log.rate_pps, 1)} /s, {log.on_pct:.0f} %")
            )
            facts.append(("Peak, background", f"{log.peak_a:.0f}, {log.background_a:.0f} A"))
        else:
            facts.append(("Current", _format_amps(log.peak_a)))
    last = live.last[0] if live.last else 0.0
    lately = [
        excursion
        for excursion in (log.left_band if log is not None and live.on else ())
        if excursion.what != "postflow_s" and excursion.end_s > last - 3.0
    ]
    # One sentence for each figure, the latest.
    left = {excursion.what: format_excursion(excursion) for excursion in lately}
    return Traced(
        state.state,
        state.words,
        live.on,
        live.turned_s,
        live.arc_s,
        tuple(facts),
        tuple(left.values()),
        state.rows,
    )


def _format_heat(energy_kj: float, arc_s: float, plan: Plan) -> str:
    planned = plan.heat.arc_voltage_v * plan.slopes.mean_a * arc_s / 1000
    return f"{energy_kj:.1f}, planned {planned:.1f}" if arc_s else "–"


def _format_amps(value: float | None) -> str:
    return "–" if value is None else f"{value:.0f} A"


def _format_clock(seconds: float) -> str:
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"


def describe_summary(summary: RunSummary, guide: Guide, units: str) -> list[tuple[str, str]]:
    """Return the summary of a session as text.

    Args:
        summary: The summary.
        guide: The guide.
        units: Unit system.
    """
    rows = [("Arc time", _format_clock(summary.arc_s))]
    if summary.pool_s:
        rows.append(
            (
                "Slowest pool",
                ", ".join(f"{s:.1f} s" for s in summary.pool_s)
                + (
                    f"; {format_count(summary.slow_pools, 'time')} too slow"
                    if summary.slow_pools
                    else ""
                ),
            )
        )
    rows.append(("Restarts", str(summary.restarts)))
    if summary.touched:
        rows.append(("Tungsten contacts", format_count(summary.touched, "time")))
    if summary.beats is not None:
        rows.append(("Pulse cycles", str(summary.beats)))
    if summary.taper_s is not None:
        rows.append(("Taper", f"{summary.taper_s:.1f} s"))
    if summary.held_s is not None:
        rows.append(("Shortest hold", f"at least {summary.held_s:.1f} s"))
    if summary.length_mm:
        rows.append(("Welded length", Quantity(summary.length_mm, "length").text(units)))
        if summary.arc_s > 0:
            rows.append(
                ("Travel speed", Quantity(summary.length_mm / summary.arc_s, "speed").text(units))
            )
    return rows


def steps_data(run: RunView, units: str) -> list[dict[str, Json]]:
    """Return the steps of a session for a page without the server.

    Args:
        run: The session.
        units: Unit system.
    """
    return [_step_data(run, step, units) for step in run.score.steps]


def _step_data(run: RunView, step: Step, units: str) -> dict[str, Json]:
    return {
        "key": step.key,
        "phase": step.phase,
        "title": step.title.text(units),
        "how": step.how.text(units),
        "keys": [asdict(k) for k in step.keys],
        "shown": [asdict(f) for f in run.figures[step.key]],
        "about": step.about_s,
        "limit": step.limit_s,
        "down": step.down_s,
        "then": step.then,
        "late": step.late.text(units) if step.late else "",
        "arc": step.arc,
        "from": step.from_mm,
        "to": step.to_mm,
        "on": step.on_to,
        "off": step.off_to,
    }
