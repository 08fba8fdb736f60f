"""The phases of a run, built from a plan: text, duration and next step of each key.

A device with this table can guide a run without the server. Common practice throughout. A manual
down-slope takes 1 to 2 s, doubled where it cracks.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from ..plan.arc.setting import SLOWLY, needs_slow_taper
from ..plan.plan import Plan
from ..plan.preparation.bar_runs import BarRun, BenchLine, build_bench_list
from ..plan.preparation.weld_spans import WeldSpan, list_weld_spans, place_mm, steps_purge
from ..plan.purge_end import purge_off_s
from ..plan.shielding.purge import OFF_BELOW_C
from ..quantities import Quantity
from ..reasons import Sentence
from .step_texts import (
    StepFigure,
    format_seam,
    format_strike,
    format_taper,
    show_gas,
    show_pulse,
    show_slope,
    show_torch,
)

# Without a pool within this time, stop: heat accumulates and travel cannot compensate.
POOL_S, POOL_CARBON_S = 2.0, 3.0
TAPER_S = 1.5
# Time from the tap to the strike in timed mode, s, to lower the hood and to place torch and rod.
# Estimate.
COUNT_IN_S = 5.0
PHASES = {
    "purge": "Purge",
    "tacks": "Tacks",
    "pool": "Pool",
    "seam": "Seam",
    "taper": "Taper",
    "hold": "Hold still",
    "wait": "Wait",
    "done": "Done",
}
END = "done"
GAS_ON, FILLING, PURGE_WELD, PURGE_CLOSE, PURGE_OFF = (
    "purge",
    "purge-filling",
    "purge-weld",
    "purge-close",
    "purge-off",
)


class Key(Struct, frozen=True):
    """A key of a step: name, label, and next step."""

    key: str
    words: str
    to: str


class Step(Struct, frozen=True):
    """A step of a run: key, phase, instruction, details, figures and keys, the main key first.

    `late`: the text at its maximum duration or countdown. `about_s`: the expected duration.
    `limit_s`: the maximum duration. `down_s`: a countdown, which continues with `then`. `arc`: the
    arc is on. `from_mm`, `to_mm`: position on the seam. `line`: the bench line that it completes.
    `led`: the next step for each signal of the arc (`course.SIGNALS`). `part_s`: the planned arc
    time of this part of the seam. `timed_s`: the duration in timed mode, which continues with
    `timed_to`. `counted_in`: in timed mode a key starts it. `pauses_mm`: pauses on the seam.
    """

    key: str
    phase: str
    title: Sentence
    how: Sentence
    keys: tuple[Key, ...]
    shown: tuple[StepFigure, ...] = ()
    about_s: float | None = None
    limit_s: float | None = None
    down_s: float | None = None
    then: str = ""
    late: Sentence | None = None
    arc: bool = False
    from_mm: float = 0.0
    to_mm: float = 0.0
    line: str = ""
    led: Mapping[str, str] = {}
    part_s: float | None = None
    timed_s: float | None = None
    timed_to: str = ""
    counted_in: bool = False
    pauses_mm: tuple[float, ...] = ()


class RunSteps(Struct, frozen=True):
    """The steps of a run in order, and its pulse frequency, 1/s, or None."""

    steps: tuple[Step, ...]
    rate_pps: float | None

    def step(self, key: str) -> Step:
        """Return a step by its key."""
        return next(s for s in self.steps if s.key == key)

    @property
    def keys(self) -> tuple[str, ...]:
        """Return the keys of its steps."""
        return tuple(s.key for s in self.steps)


def build_steps(plan: Plan, runs: Sequence[BarRun]) -> RunSteps:
    """Build the steps of a run of a plan.

    Common practice.

    Args:
        plan: The plan.
        runs: The bar runs.
    """
    lines = build_bench_list(plan, list(runs), one_by_one=True)
    before = [
        line for line in lines if line.kind in ("gas", "tack", "true") or line.key == "bars-on"
    ]
    welds = [line for line in lines if line.kind == "weld"]
    spans = list_weld_spans(plan, [(r.start_mm, r.end_mm) for r in runs[: len(welds)]])
    names = [_get_line_name(line) for line in before] + ["ready-1"]
    steps: list[Step] = []
    for i, line in enumerate(before):
        steps += _build_before_steps(plan, line, names[i + 1], len(spans) == 1)
    steps = _lead_by_tacks(steps)
    moves = {line.key: line for line in lines if line.kind == "bars"}
    for n, span in enumerate(spans, 1):
        weld = welds[n - 1] if n <= len(welds) else None
        if _closes_purge(plan, n, len(spans)):
            steps.append(_build_purge_close(plan, n))
        after = _find_step_after(plan, n, len(spans), moves)
        steps += _run_steps(plan, n, span, weld, moves.get(f"bars-{n}"), after)
    return RunSteps((*steps, *_build_after(plan, f"pool-{len(spans)}")), plan.pulse.rate_pps)


def _find_step_after(plan: Plan, n: int, count: int, moves: Mapping[str, BenchLine]) -> str:
    """Return the step after a part of the seam."""
    if n == count:
        return PURGE_OFF if steps_purge(plan) else _find_rest(plan)
    if f"bars-{n + 1}" in moves:
        return f"bars-{n + 1}"
    return PURGE_CLOSE if _closes_purge(plan, n + 1, count) else f"ready-{n + 1}"


def _lead_by_tacks(steps: Sequence[Step]) -> list[Step]:
    """Return the steps before the seam with their signals.

    A strike selects the next tack, a short arc completes it, and a long arc starts the seam.
    """
    led_steps: list[Step] = []
    next_tack = ""
    for step in reversed(steps):
        if step.key.startswith("tack"):
            next_tack = step.key
            # The rest of a long row of tacks is one line.
            tack_to = step.key if step.key == "tacks-more" else step.keys[0].to
            led = {"tack": tack_to, "long": "pool-1"}
        elif next_tack:
            led = {"strike": next_tack, "long": "pool-1"}
        else:
            # All tacks are welded.
            led = {"strike": "pool-1", "long": "pool-1"}
        led_steps.append(replace(step, led=led))
    return led_steps[::-1]


def _find_rest(plan: Plan) -> str:
    """Return the step after the last gas: the wait, or the end."""
    return "wait" if plan.heat.interpass_wait_s else END


def _closes_purge(plan: Plan, n: int, count: int) -> bool:
    """Return whether a part of the seam closes a purged space that earlier parts left open."""
    return steps_purge(plan) and n == count > 1


def _get_line_name(line: BenchLine) -> str:
    return "purge" if line.kind == "gas" else line.key


def _build_before_steps(plan: Plan, line: BenchLine, to: str, single: bool) -> list[Step]:
    """Return the steps of a bench line; a purge is turned down before the first tack."""
    if line.kind != "gas" or not steps_purge(plan) or plan.back.purge is None:
        return (
            _build_purge_start(plan, line, to)
            if line.kind == "gas"
            else [_build_before(plan, line, to)]
        )
    purge = plan.back.purge
    flow = purge.closing_flow_l_min if single else purge.weld_flow_l_min
    down = Step(
        PURGE_WELD,
        "purge",
        Sentence("Turn the purge down for welding."),
        Sentence("The flow of the filling would blow out the pool. Leave the vent open."),
        (Key("main", "Turned down", to),),
        (StepFigure("Purge", Quantity(flow or purge.weld_flow_l_min, "flow")),),
    )
    return [*_build_purge_start(plan, line, PURGE_WELD), down]


def _build_purge_close(plan: Plan, n: int) -> Step:
    """Return the step before the part that closes the seam."""
    purge = plan.back.purge
    flow = (purge.closing_flow_l_min if purge else None) or 0.0
    return Step(
        PURGE_CLOSE,
        "purge",
        Sentence("Turn the purge down for closing."),
        Sentence("Keep the vent open. A closed tube under pressure blows out the pool."),
        (Key("main", "Turned down", f"ready-{n}"),),
        (StepFigure("Purge", Quantity(flow, "flow")),),
        led={"strike": f"pool-{n}"},
    )


def _build_purge_start(plan: Plan, line: BenchLine, to: str) -> list[Step]:
    """Return the two steps of a purge: open the gas, then wait. The clock starts with the gas."""
    purge = plan.back.purge
    flow = () if purge is None else (StepFigure("Purge", Quantity(purge.preflow_l_min, "flow")),)
    # The rule without a meter: ten volumes.
    about = None if purge is None or purge.minutes_volumes is None else purge.before_s
    opening = Step(
        GAS_ON,
        "purge",
        Sentence("Start the backing argon."),
        Sentence("Feed at the bottom, vent at the top."),
        (Key("main", "Argon on", FILLING),),
        flow,
    )
    filling = Step(
        FILLING,
        "purge",
        Sentence("Wait for the purge."),
        Sentence("Reach the target before the first tack."),
        (Key("main", "Purge done", to),),
        flow,
        about_s=about,
        line=line.key,
        timed_s=about,
        timed_to=to,
    )
    return [opening, filling]


def _build_before(plan: Plan, line: BenchLine, to: str) -> Step:
    skip = Key("skip", "Already tacked", "ready-1")
    if line.kind == "tack":
        t = plan.tacks
        displayed = (
            StepFigure("Set for tacks", Quantity(t.dial_a, "current")),
            StepFigure("Each tack", Quantity(t.time_s, "seconds")),
        )
        how = Sentence(
            "Pulse off. Tack from the thick to the thin side, and hold still through the post-flow."
        )
        return Step(
            line.key,
            "tacks",
            line.words,
            how,
            (Key("main", "Tacks done", to), skip),
            displayed,
            line=line.key,
        )
    how = (
        Sentence("Clamp every face of the seam. A forgotten side oxidises.")
        if line.kind == "bars"
        else Sentence("Grind out a cracked tack. Never weld over it.")
    )
    return Step(line.key, "tacks", line.words, how, (Key("main", "Done", to), skip), line=line.key)


def _run_steps(
    plan: Plan,
    n: int,
    span: WeldSpan,
    weld: BenchLine | None,
    move: BenchLine | None,
    after: str,
) -> list[Step]:
    start, end = span.start_mm, span.end_mm
    torch = show_torch(plan)
    limit = pool_limit_s(plan)
    part_s = (end - start) / plan.travel.speed_mm_s
    steps = []
    if move is not None:
        steps.append(
            Step(
                move.key,
                "wait",
                move.words,
                Sentence("Clamp both sides."),
                (Key("main", "Bars clamped", f"ready-{n}"),),
                line=move.key,
                led={"strike": f"pool-{n}"},
            )
        )
    text = weld.words if weld else Sentence("Continue welding.")
    pool, hold, broke, again = f"pool-{n}", f"hold-{n}", f"broke-{n}", f"hold-{n}-again"
    strike, by_strike = (Key("main", "Arc is on", pool),), {"strike": pool}
    by_end = {"off": hold, "off-broken": broke}
    steps += [
        Step(
            f"ready-{n}",
            "pool",
            text,
            format_strike(plan),
            strike,
            (*torch, *show_gas(plan)),
            led=by_strike,
        ),
        Step(
            pool,
            "pool",
            Sentence("Form the pool."),
            Sentence(
                "No pool in {s}? Stop. You are only adding heat.",
                s=Quantity(limit, "seconds"),
            ),
            (
                Key("main", "Pool formed", f"seam-{n}"),
                Key("stop", "No pool: stop", again),
            ),
            torch,
            limit_s=limit,
            arc=True,
            led={
                "full": f"seam-{n}",
                "late": f"seam-{n}",
                "tack": f"ready-{n}",
                **by_end,
                "off-unformed": again,
            },
            part_s=part_s,
            timed_s=limit,
            timed_to=f"seam-{n}",
            late=Sentence(
                "Stop: no pool in {s}. You are only adding heat.",
                s=Quantity(limit, "seconds"),
            ),
        ),
        Step(
            f"seam-{n}",
            "seam",
            text,
            format_seam(plan, span),
            (
                Key("main", "Taper", f"taper-{n}"),
                Key("restart", "Arc broke", f"again-{n}"),
                Key("touched", "Tungsten contact", f"touched-{n}"),
            ),
            (*torch, *show_pulse(plan)),
            about_s=part_s,
            arc=True,
            led={"taper": f"taper-{n}", **by_end},
            part_s=part_s,
            timed_s=part_s,
            timed_to=f"taper-{n}",
            pauses_mm=tuple(place_mm(plan, stop) for stop in span.stops),
        ),
        Step(
            f"again-{n}",
            "pool",
            Sentence("Restart."),
            Sentence(
                "Fit a fresh tip. Strike in the middle of the crater, let the pool reach its "
                "old size, then move on."
            ),
            (*strike, Key("stop", "End of the seam", hold)),
            torch,
            led=by_strike,
        ),
        Step(
            f"touched-{n}",
            "pool",
            Sentence("Stop: regrind the tungsten and cut out the spot."),
            Sentence("Stopping costs less than welding on with a contaminated tungsten."),
            strike,
            torch,
            led=by_strike,
        ),
        Step(
            f"taper-{n}",
            "taper",
            Sentence("Taper."),
            format_taper(plan),
            (Key("main", "Arc off", hold),),
            show_slope(plan),
            down_s=taper_s(plan),
            then=hold,
            arc=True,
            led={"rise": f"seam-{n}", **by_end},
            part_s=part_s,
        ),
        _build_hold(plan, hold, after, Key("restart", "Arc broke: restart", f"again-{n}"), pool),
        _build_hold(plan, broke, f"again-{n}", Key("stop", "End of the seam", hold), pool),
        _build_hold(plan, again, f"ready-{n}", None, pool),
    ]
    counted = {"timed_s": COUNT_IN_S, "timed_to": pool, "counted_in": True}
    return [
        replace(step, from_mm=start, to_mm=end, **(counted if step.keys[:1] == strike[:1] else {}))
        for step in steps
    ]


def pool_limit_s(plan: Plan) -> float:
    """Return the maximum time until the pool forms, s.

    Common practice.
    """
    return POOL_S if plan.section.stainless_sides else POOL_CARBON_S


def taper_s(plan: Plan) -> float:
    """Return the down-slope time, s: that of the machine, or else 1.5 s, doubled where it cracks.

    Common practice.
    """
    if plan.slopes.down_s:
        return plan.slopes.down_s
    return TAPER_S * (SLOWLY if needs_slow_taper(plan.metals, plan.section) else 1)


def _build_hold(plan: Plan, key: str, to: str, more: Key | None, pool: str) -> Step:
    still = "the torch and the rod tip" if plan.filler.rod else "the torch"
    how = Sentence("Keep {still} still and under gas until the gas stops.", still=still)
    displayed = (
        StepFigure("Post-flow", Quantity(plan.gas.postflow_s, "seconds"), "set.postflow_s"),
    )
    keys = (Key("main", "Gas off", to), *([more] if more else []))
    return Step(
        key,
        "hold",
        Sentence("Hold still."),
        how,
        keys,
        displayed,
        down_s=plan.gas.postflow_s,
        then=to,
        led={"strike": pool, "gas-off": to},
    )


def _build_after(plan: Plan, pool: str) -> list[Step]:
    text = Sentence(
        "Let the seam cool below {c} before you weld next to it.",
        c=Quantity(plan.heat.interpass_c, "temperature"),
    )
    ends = []
    if steps_purge(plan):
        ends.append(
            Step(
                PURGE_OFF,
                "purge",
                Sentence("Leave the purge on."),
                Sentence(
                    "Turn it off when the seam is below {c}.",
                    c=Quantity(OFF_BELOW_C, "temperature"),
                ),
                (Key("main", "Purge off", _find_rest(plan)),),
                down_s=purge_off_s(plan),
                late=Sentence("Cool enough by the clock. Turn the purge off."),
                led={"strike": pool},
            )
        )
    waiting = Step(
        "wait",
        "wait",
        Sentence("Cool."),
        text,
        (Key("main", "Done", END),),
        down_s=plan.heat.interpass_wait_s or 0.0,
        then=END,
        led={"strike": pool},
    )
    return [
        *ends,
        waiting,
        Step(
            END,
            "done",
            Sentence("Run finished."),
            Sentence("Check both faces, and record the run now."),
            (),
        ),
    ]
