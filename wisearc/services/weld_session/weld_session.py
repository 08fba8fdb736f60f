"""Runs at the arc: led by their steps, acts taken once from whatever device, what they come to;
what a power source says beside them.
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
from ...core.weld_session.pacer import Pace, build_pacer
from ...core.weld_session.steps import PHASES, RunSteps, Shown, Step, build_steps
from ...store import purges, weld_sessions
from ...store.database import open_transaction
from ...store.errors import Missing
from ...store.models import AtArc
from ..purge.purge_run import parse_port
from ..set_up.tacking import TACKS, list_bar_runs
from .arc_source import Source, Sources

Clock = Callable[[], float]
# what is older is no run under way
FRESH_S = 24 * 3600.0
MAX_PERSON_LENGTH = 60
_ID = r"[A-Za-z0-9-]{8,60}"
# what differs by less is the same: a share of it
SAME = 0.01
# a device's clock that is out by more is put right by no reckoning
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
    """An act as a device sends it: its own number for it, when by its clock, the step it was done
    in, and the key.
    """

    id: Annotated[str, Entry("own", own=_OWN_NUMBER, required=True)]
    at: Annotated[float, _declare_moment()]
    step: Annotated[str, Entry("text", high=40, required=True)]
    key: Annotated[str, Entry("text", high=20, required=True)]


class Sent(Struct, frozen=True, kw_only=True):
    """What a device sends: of what, for which run of a job, its own number for the run, who, the
    device; when the run began and what it is now by its clock, s since 1970; the acts.
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
    """A figure that is in use: its label, itself in words, and what it was in the last run, or
    "".
    """

    label: str
    text: str
    was: str


class RunView(Struct, frozen=True):
    """All that Run shows: the number of the run (0 before its first act) and its device's own; the
    steps; how it stands; the pace; the figures of a step.
    """

    number: int
    once: str
    began: float
    title: str
    plan: Plan
    score: RunSteps
    course: Course
    acts: Sequence[RunEvent]
    pace: Pace
    port: int | None
    figures: Mapping[str, tuple[Figure, ...]]
    came: RunSummary

    @property
    def phases(self) -> list[tuple[str, str, str]]:
        """The phases of this run: key, words, and how each stands ("done", "now", "next")."""
        used = list(dict.fromkeys(s.phase for s in self.score.steps))
        now = self.course.step.phase
        been = {self.score.step(v.step).phase for v in self.course.visits[:-1]}
        return [
            (key, PHASES[key], "now" if key == now else "done" if key in been else "next")
            for key in PHASES
            if key in used
        ]


def score_of(plan: Plan, shop: Shop) -> RunSteps:
    """The steps of a run of a plan, with the bars there are."""
    return build_steps(plan, list_bar_runs(plan, shop))


def find_current(what: str, job: str, clock: Clock = time.time) -> AtArc | None:
    """The run of something that is under way, or done and not written down; None where there is
    none of the last day.
    """
    found = weld_sessions.find_newest(what, job)
    return found if found is not None and clock() - found.began < FRESH_S else None


def get_run(number: int) -> AtArc:
    """A run at the arc. Raises Missing."""
    found = weld_sessions.find_run(number)
    if found is None:
        raise Missing("There is no such run. Start one from Set up.")
    return found


def find_left_run(number: int) -> AtArc | None:
    """A run that was left, by its number, as long as it was not taken up again; else None."""
    found = weld_sessions.find_run(number)
    return found if found is not None and found.left_at is not None else None


def list_unrecorded(most: int = 12, clock: Clock = time.time) -> list[tuple[AtArc, bool]]:
    """The runs that were neither written down nor left, newest first, each with whether it is the
    one that its page goes on with.
    """
    rows = weld_sessions.open_runs(most)
    return [(row, row.ended is None and _is_in_progress(row, clock)) for row in rows]


def _is_in_progress(row: AtArc, clock: Clock) -> bool:
    found = find_current(row.what, row.job, clock)
    return found is not None and found.id == row.id


def view(
    row: AtArc | None,
    once: str,
    plan: Plan,
    shop: Shop,
    habit: str,
    last: Run | None = None,
    clock: Clock = time.time,
) -> RunView:
    """What Run shows. Parameters: row, the run, or None before it began; once, the number it will
    go by; last, the run that was written down last.
    """
    score, now = score_of(plan, shop), clock()
    acts = list_acts(row) if row is not None else []
    began = row.began if row is not None else now
    course = replay_events(score, acts, began)
    figures = {
        s.key: tuple(_build_figure(one, last, habit) for one in s.shown) for s in score.steps
    }
    return RunView(
        row.id if row else 0,
        row.once if row else once,
        began,
        plan.title.text(habit),
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
    """The acts of a run, by this machine's clock."""
    return [
        RunEvent(a.id, a.device, a.at + row.clocks.get(a.device, 0.0), a.step, a.key)
        for a in weld_sessions.list_acts(row.id)
    ]


def _build_figure(shown: Shown, last: Run | None, habit: str) -> Figure:
    part, _, key = shown.run.partition(".")
    before = run_figures()[part][key].of(last) if last is not None and part else None
    value = shown.value
    differs = before is not None and abs(before - value.value) > SAME * max(
        abs(value.value), abs(before)
    )
    return Figure(
        shown.label, value.text(habit), format_value(before, value.kind, habit) if differs else ""
    )


def read_sent(data: Any) -> Sent:
    """What a device sent, checked. Raises InputError."""
    return read_document(Sent, data, what="a run that a device sends")


def receive_entries(
    sent: Sent, plan: Plan, title: str, shop: Shop, clock: Clock = time.time
) -> AtArc:
    """Take what a device sent: the run begun where it was not, each act once, however often it is
    sent. Returns the run.

    A device's clock is put right by what it says it is now. Raises InputError for what cannot be.
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
            # what a message took on its way is in it: the least of them is how far the clock is out
            row.clocks = {**row.clocks, sent.device: min(late, row.clocks.get(sent.device, late))}
            weld_sessions.change(row.id, clocks=row.clocks)
            weld_sessions.add_acts(row.id, sent.device, [asdict(act) for act in sent.acts])
            # one that a device goes on with was not left
            if row.left_at is not None and any(a.at + late > row.left_at for a in sent.acts):
                weld_sessions.change(row.id, left_at=None)
            _apply_consequences(row, plan, shop)
    return weld_sessions.find_run_by_token(sent.once) or row


def _apply_consequences(row: AtArc, plan: Plan, shop: Shop) -> None:
    """What follows from a run as it stands: lines of the list at the bench ticked, the purge's arc
    told, the end.
    """
    course = replay_events(score_of(plan, shop), list_acts(row), row.began)
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


def _report_to_purge(what: str, course: Course) -> None:
    """A purge under way is told when the arc was struck for the seam, and when it was over."""
    purge = purges.find_newest_purge(what)
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

    Raises:
        InputError: The port is not valid.
    """
    port = parse_port(port_text, "power source")
    with open_transaction():
        weld_sessions.change(row.id, port=port)


def stop_run(row: AtArc, sources: Sources, clock: Clock = time.time) -> None:
    """Leave a run that was begun: it is no longer under way, and can be taken up again."""
    with open_transaction():
        row.left_at = clock()
        weld_sessions.change(row.id, left_at=row.left_at)
    sources.let_go(row.id)


def resume_run(row: AtArc) -> None:
    """Take up a run again that was left."""
    with open_transaction():
        weld_sessions.change(row.id, left_at=None)


def get_source(row: AtArc, plan: Plan, sources: Sources) -> Source | None:
    """The power source of a run, listened to while it is under way; let go once it is over."""
    on = row.run is None and row.left_at is None and row.ended is None
    return sources.of(row.id, row.port, row.began, on, plan.heat.arc_voltage_v)


class Traced(Struct, frozen=True):
    """What the trace says now, in figures and words: how the source stands; whether the arc is on
    and since when; arc time s; lines of (label, words); what is out of its band; the rows since
    those that are known.
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
    habit: str,
) -> Traced:
    """What a power source's trace says now. Parameters: after_s, up to when rows are known; left_l,
    argon in the cylinder as the run began, L, or None.
    """
    stands = source.standing(after_s)
    live, held = stands.live, get_limits(plan, bands)
    log = source.looked_at(held)
    facts = [
        ("Arc time", _format_clock(live.arc_s)),
        ("Mean current", _format_amps(live.mean_a)),
        ("Heat, kJ", _format_heat(live.energy_kj, live.arc_s, plan)),
    ]
    used = live.gas_s * plan.gas.flow_l_min / 60
    argon = ("Argon used", used) if left_l is None else ("Argon left", max(0.0, left_l - used))
    facts.append((argon[0], Quantity(argon[1], "volume").text(habit)))
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
        one
        for one in (log.left_band if log is not None and live.on else ())
        if one.what != "postflow_s" and one.end_s > last - 3.0
    ]
    # one sentence a figure, the latest
    left = {one.what: format_excursion(one) for one in lately}
    return Traced(
        stands.state,
        stands.words,
        live.on,
        live.turned_s,
        live.arc_s,
        tuple(facts),
        tuple(left.values()),
        stands.rows,
    )


def _format_heat(energy_kj: float, arc_s: float, plan: Plan) -> str:
    planned = plan.heat.arc_voltage_v * plan.slopes.mean_a * arc_s / 1000
    return f"{energy_kj:.1f}, planned {planned:.1f}" if arc_s else "–"


def _format_amps(value: float | None) -> str:
    return "–" if value is None else f"{value:.0f} A"


def _format_clock(seconds: float) -> str:
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"


def describe_summary(came: RunSummary, pace: Pace, habit: str) -> list[tuple[str, str]]:
    """What a run came to, in words."""
    rows = [("Arc time", _format_clock(came.arc_s))]
    if came.pool_s:
        rows.append(
            (
                "Slowest pool",
                ", ".join(f"{s:.1f} s" for s in came.pool_s)
                + (
                    f"; {format_count(came.slow_pools, 'time')} too slow" if came.slow_pools else ""
                ),
            )
        )
    rows.append(("Restarts", str(came.restarts)))
    if came.touched:
        rows.append(("Tungsten contacts", format_count(came.touched, "time")))
    if came.beats is not None:
        rows.append(("Pulse cycles", str(came.beats)))
    if came.taper_s is not None:
        rows.append(("Taper", f"{came.taper_s:.1f} s"))
    if came.held_s is not None:
        rows.append(("Shortest hold", f"at least {came.held_s:.1f} s"))
    if came.length_mm:
        rows.append(("Welded length", Quantity(came.length_mm, "length").text(habit)))
        if came.arc_s > 0:
            rows.append(
                ("Travel speed", Quantity(came.length_mm / came.arc_s, "speed").text(habit))
            )
    return rows


def steps_data(run: RunView, habit: str) -> list[dict[str, Json]]:
    """The steps of a run as a page without the server follows them."""
    return [_step_data(run, step, habit) for step in run.score.steps]


def _step_data(run: RunView, step: Step, habit: str) -> dict[str, Json]:
    return {
        "key": step.key,
        "phase": step.phase,
        "title": step.title.text(habit),
        "how": step.how.text(habit),
        "keys": [asdict(k) for k in step.keys],
        "shown": [asdict(f) for f in run.figures[step.key]],
        "about": step.about_s,
        "limit": step.limit_s,
        "down": step.down_s,
        "then": step.then,
        "late": step.late.text(habit) if step.late else "",
        "arc": step.arc,
        "from": step.from_mm,
        "to": step.to_mm,
        "on": step.on_to,
        "off": step.off_to,
    }
