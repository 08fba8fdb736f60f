"""The contents of the weld page: steps, figures, live data and summary as text."""

import time
from collections.abc import Mapping, Sequence

from msgspec import Struct
from msgspec.structs import asdict

from ...core import catalogue
from ...core.arc_log.limits import format_excursion, get_limits
from ...core.arc_log.live import Row
from ...core.plan.plan import Plan
from ...core.quantities import Quantity, format_count, format_plain
from ...core.run.run import Run, run_figures
from ...core.run.verification import Bands
from ...core.schema.figures import format_value
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...core.weld_session.course import (
    Course,
    RunEvent,
    RunSummary,
    replay_events,
    summarise_run,
)
from ...core.weld_session.cues import list_cues
from ...core.weld_session.pacer import Guide, build_pacer
from ...core.weld_session.sensing import ACOUSTIC, HISS_HZ, OPTICAL, REST_HZ
from ...core.weld_session.step_texts import StepFigure
from ...core.weld_session.steps import GAS_ON, PHASES, RunSteps, Step
from ...store.models import AtArc
from .arc_source import Source
from .weld_session import Clock, build_subject_steps, list_acts, list_opening_acts

# A smaller relative difference counts as equal.
SAME = 0.01
# What can move the steps of a run: key, name and description.
LEADS = (
    ("arc", "The power source", "The arc moves all steps by its current, voltage and gas."),
    (
        "sound",
        "The sound of the arc",
        "This device listens with its microphone. Nothing is recorded or leaves the device.",
    ),
    (
        "light",
        "The light of the arc",
        "This device looks with its camera. Nothing is recorded or leaves the device.",
    ),
    ("timed", "The clock", "One tap, a count-in, then the planned times. Follow the beat."),
    ("tap", "My taps", "The large key, any key or a pedal that types."),
)


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


def view(
    row: AtArc | None,
    subject: str,
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
        subject: The plan or procedure.
        once: The number of a new session.
        plan: The plan.
        shop: The shop.
        units: Unit system.
        last: The last recorded run, or None.
        clock: Current time, s since 1970.
    """
    score, now = build_subject_steps(plan, shop), clock()
    acts = list_acts(row) if row is not None else list_opening_acts(subject, once)
    began = row.began if row is not None else min([now, *(act.at for act in acts)])
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


class Traced(Struct, frozen=True):
    """The live data of a trace.

    State of the source, arc time s, lines of (label, text), excursions, new rows, and whether the
    source sends the state of its gas.
    """

    state: str
    words: str
    arc_s: float
    facts: tuple[tuple[str, str], ...]
    left: tuple[str, ...]
    rows: Sequence[Row]
    has_gas: bool


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
        live.arc_s,
        tuple(facts),
        tuple(left.values()),
        state.rows,
        state.has_gas,
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
    if summary.is_timed:
        return [
            ("Moved by the clock", "the times are planned, not measured"),
            ("Restarts", str(summary.restarts)),
        ]
    rows = []
    if summary.purge_s is not None:
        rows.append(("Purge before the arc", _format_clock(summary.purge_s)))
    rows.append(("Arc time", _format_clock(summary.arc_s)))
    if summary.pool_s:
        label = "Current full after" if summary.is_pool_from_log else "Slowest pool"
        slow = (
            f"; {format_count(summary.slow_pools, 'time')} too slow" if summary.slow_pools else ""
        )
        rows.append((label, ", ".join(f"{s:.1f} s" for s in summary.pool_s) + slow))
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
        "led": dict(step.led),
        "part": step.part_s,
        "timed": step.timed_s,
        "timedTo": step.timed_to,
        "countIn": step.counted_in,
        "still": step.key == GAS_ON,
        "cues": [
            {"key": cue.key, "at": cue.at_s, "values": dict(cue.values)}
            for cue in list_cues(step, run.pace.speed_mm_s)
        ],
    }


def build_cue_data(units: str) -> dict[str, Json]:
    """Return the cues of a run for its page, in every language.

    Args:
        units: Unit system.
    """
    return {
        "unit": "in" if units == "in" else "mm",
        "language": "en",
        "languages": {key: asdict(of) for key, of in catalogue.load_cue_languages().items()},
        "cues": {
            key: {"tones": list(cue.tones), "texts": cue.texts}
            for key, cue in catalogue.load_cues().items()
        },
    }


def build_sense_data() -> dict[str, Json]:
    """Return the limits of a sensed arc for a page."""
    return {
        "sound": {**asdict(ACOUSTIC), "hiss_hz": HISS_HZ, "rest_hz": REST_HZ},
        "light": asdict(OPTICAL),
    }
