"""The phases of a run, made of a plan: what is told in each, how long it lasts, and where each key
leads. A table: whoever has it can lead a run without asking.

Common practice throughout; the length of a taper by hand: within the trade's 1 to 2 s, doubled
where it cracks.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from ..plan.arc.setting import SLOWLY, cracks_short
from ..plan.plan import Plan
from ..plan.preparation.bar_runs import BarRun, BenchLine, bench_list
from ..quantities import Quantity, length
from ..reasons import Sentence
from .pacer import FOLLOWED_PPS

# the pool stands within so long, or one stops: heat builds and cannot be outrun
POOL_S, POOL_CARBON_S = 2.0, 3.0
TAPER_S = 1.5
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


class Key(Struct, frozen=True):
    """A key of a step: its name, its words, and the step it leads to."""

    key: str
    words: str
    to: str


class Shown(Struct, frozen=True):
    """A figure that is in use in a step: its label, itself, and where a run has it
    ("set.current_a"), or "".
    """

    label: str
    value: Any
    run: str = ""


class Step(Struct, frozen=True):
    """A step of a run: its key and phase; what is done, in large words, and how; the figures in
    use; its keys, the first of them the large one.

    `late`: what is said once it has lasted as long as it may, or is counted.
    `on_to`, `off_to`: where a power source that is listened to leads as its arc comes on or goes
    off. `about_s`: how long it is thought to last. `limit_s`: beyond it one stops. `down_s`: it is
    counted down and goes on by itself to `then`. `arc`: the arc is on. `from_mm`, `to_mm`: where on
    the seam. `line`: the line of the list at the bench that is done with it.
    """

    key: str
    phase: str
    title: Sentence
    how: Sentence
    keys: tuple[Key, ...]
    shown: tuple[Shown, ...] = ()
    about_s: float | None = None
    limit_s: float | None = None
    down_s: float | None = None
    then: str = ""
    late: Sentence | None = None
    arc: bool = False
    from_mm: float = 0.0
    to_mm: float = 0.0
    line: str = ""
    on_to: str = ""
    off_to: str = ""


class Score(Struct, frozen=True):
    """The steps of a run, in order, and the beat it is run at, 1/s, or None."""

    steps: tuple[Step, ...]
    rate_pps: float | None

    def step(self, key: str) -> Step:
        """A step by its key."""
        return next(s for s in self.steps if s.key == key)

    @property
    def keys(self) -> tuple[str, ...]:
        """The keys of its steps."""
        return tuple(s.key for s in self.steps)


def make_score(plan: Plan, runs: Sequence[BarRun]) -> Score:
    """The steps of a run of a plan, by its bar runs. Common practice."""
    lines = bench_list(plan, list(runs))
    before = [
        line for line in lines if line.kind in ("gas", "tack", "true") or line.key == "bars-on"
    ]
    welds = [line for line in lines if line.kind == "weld"]
    spans = [(run.start_mm, run.end_mm) for run in runs[: len(welds)]] or [
        (0.0, plan.section.length_mm)
    ]
    names = [_named(line) for line in before] + ["ready-1"]
    steps = [_before(plan, line, names[i + 1]) for i, line in enumerate(before)]
    moves = {line.key: line for line in lines if line.kind == "bars"}
    for n, span in enumerate(spans, 1):
        last = n == len(spans)
        steps += _run_steps(
            plan, n, span, welds[n - 1] if n <= len(welds) else None, moves.get(f"bars-{n}"), last
        )
    return Score((*steps, *_after(plan, f"pool-{len(spans)}")), plan.pulse.rate_pps)


def _named(line: BenchLine) -> str:
    return "purge" if line.kind == "gas" else line.key


def _before(plan: Plan, line: BenchLine, to: str) -> Step:
    skip = Key("skip", "Tacked already", "ready-1")
    if line.kind == "gas":
        purge = plan.back.purge
        flow = [] if purge is None else [Shown("Purge", Quantity(purge.preflow_l_min, "flow"))]
        # what is known of it without a meter: ten volumes
        about = (
            None if purge is None or purge.minutes_volumes is None else 60 * purge.minutes_volumes
        )
        how = Sentence("Low in, vent high. Let it come to its target before the first tack.")
        return Step(
            "purge",
            "purge",
            Sentence("Gas on behind."),
            how,
            (Key("main", "It has purged", to),),
            tuple(flow),
            about_s=about,
            line=line.key,
        )
    if line.kind == "tack":
        t = plan.tacks
        shown = (
            Shown("Set for tacks", _amps(t.dial_a)),
            Shown("Each", Quantity(t.time_s, "seconds")),
        )
        how = Sentence("Pulse off. From the thick onto the thin, hold still through post-flow.")
        return Step(
            line.key,
            "tacks",
            line.words,
            how,
            (Key("main", "Tacked", to), skip),
            shown,
            line=line.key,
        )
    how = (
        Sentence("Every face of the seam; one forgotten side shows as sugar.")
        if line.kind == "bars"
        else Sentence("A cracked tack is ground out, never run over.")
    )
    return Step(line.key, "tacks", line.words, how, (Key("main", "Done", to), skip), line=line.key)


def _run_steps(
    plan: Plan,
    n: int,
    span: tuple[float, float],
    weld: BenchLine | None,
    move: BenchLine | None,
    last: bool,
) -> list[Step]:
    start, end = span
    torch = _torch(plan)
    limit = pool_limit_s(plan)
    after = f"bars-{n + 1}" if not last else "wait" if plan.heat.interpass_wait_s else END
    found = []
    if move is not None:
        found.append(
            Step(
                move.key,
                "wait",
                move.words,
                Sentence("Both sides of it; clamps back on."),
                (Key("main", "Bars are set", f"ready-{n}"),),
                line=move.key,
                on_to=f"pool-{n}",
            )
        )
    words = weld.words if weld else Sentence("Weld on.")
    pool, hold = f"pool-{n}", f"hold-{n}"
    strike = (Key("main", "Arc is on", pool),)
    found += [
        Step(
            f"ready-{n}",
            "pool",
            words,
            _strike_words(plan),
            strike,
            (*torch, *_gas(plan)),
            on_to=pool,
        ),
        Step(
            pool,
            "pool",
            Sentence("Grow the pool."),
            Sentence(
                "It stands within {s}, or stop: heat builds and cannot be outrun.",
                s=Quantity(limit, "seconds"),
            ),
            (
                Key("main", "Pool is there", f"seam-{n}"),
                Key("stop", "No pool: stop", f"{hold}-again"),
            ),
            torch,
            limit_s=limit,
            arc=True,
            off_to=hold,
            late=Sentence(
                "Stop: no pool within {s}. Heat builds and cannot be outrun.",
                s=Quantity(limit, "seconds"),
            ),
        ),
        Step(
            f"seam-{n}",
            "seam",
            words,
            _seam_words(plan),
            (
                Key("main", "Taper off", f"taper-{n}"),
                Key("restart", "Arc broke", f"again-{n}"),
                Key("touched", "Touched the tungsten", f"touched-{n}"),
            ),
            (*torch, *_pulse(plan)),
            about_s=(end - start) / plan.travel.speed_mm_s,
            arc=True,
            off_to=hold,
        ),
        Step(
            f"again-{n}",
            "pool",
            Sentence("Restart."),
            Sentence(
                "A fresh point. Strike in the middle of the crater, grow the pool to its old"
                " size, go."
            ),
            (*strike, Key("stop", "That was the end", hold)),
            torch,
            on_to=pool,
        ),
        Step(
            f"touched-{n}",
            "pool",
            Sentence("Stop: regrind, cut out the spot."),
            Sentence("Finding it touched costs less than welding on."),
            strike,
            torch,
            on_to=pool,
        ),
        Step(
            f"taper-{n}",
            "taper",
            Sentence("Taper off."),
            _taper_words(plan),
            (Key("main", "Arc is off", hold),),
            _slope(plan),
            down_s=taper_s(plan),
            then=hold,
            arc=True,
            off_to=hold,
        ),
        _hold(plan, hold, after, Key("restart", "It broke: restart", f"again-{n}"), pool),
        _hold(plan, f"{hold}-again", f"ready-{n}", None, pool),
    ]
    return [replace(step, from_mm=start, to_mm=end) for step in found]


def pool_limit_s(plan: Plan) -> float:
    """Within how long the pool stands, or one stops, s. Common practice."""
    return POOL_S if plan.section.stainless_sides else POOL_CARBON_S


def taper_s(plan: Plan) -> float:
    """How long to taper off, s: the machine's down-slope, else 1.5 s, twice that on what cracks.
    Common practice.
    """
    if plan.slopes.down_s:
        return plan.slopes.down_s
    return TAPER_S * (SLOWLY if cracks_short(plan.metals, plan.section) else 1)


def _hold(plan: Plan, key: str, to: str, more: Key | None, pool: str) -> Step:
    how = Sentence("Torch and rod tip stay put and covered till the gas stops.")
    shown = (Shown("Post-flow", Quantity(plan.gas.postflow_s, "seconds"), "set.postflow_s"),)
    keys = (Key("main", "Gas is off", to), *([more] if more else []))
    return Step(
        key,
        "hold",
        Sentence("Hold still."),
        how,
        keys,
        shown,
        down_s=plan.gas.postflow_s,
        then=to,
        on_to=pool,
    )


def _after(plan: Plan, pool: str) -> list[Step]:
    words = Sentence(
        "Let it cool below {c} before its neighbour is run.",
        c=Quantity(plan.heat.interpass_c, "temperature"),
    )
    waiting = Step(
        "wait",
        "wait",
        Sentence("Cool."),
        words,
        (Key("main", "Done", END),),
        down_s=plan.heat.interpass_wait_s or 0.0,
        late=Sentence("Cold enough by the clock."),
    )
    return [
        waiting,
        Step(
            END,
            "done",
            Sentence("The run is done."),
            Sentence("Look at both faces, and write it down while it is fresh."),
            (),
        ),
    ]


def _torch(plan: Plan) -> tuple[Shown, ...]:
    return (Shown("Set", _amps(plan.slopes.dial_a), "set.current_a"),)


def _gas(plan: Plan) -> tuple[Shown, ...]:
    return (
        Shown("Argon", Quantity(plan.gas.flow_l_min, "flow"), "set.flow_l_min"),
        Shown("Pre-flow", Quantity(plan.gas.preflow_s, "seconds")),
    )


def _pulse(plan: Plan) -> tuple[Shown, ...]:
    p = plan.pulse
    if not p.pulsed:
        return () if p.rate_pps is None else (Shown("Dabs", Quantity(p.rate_pps, "rate")),)
    return (
        Shown("Pulse", Quantity(p.rate_pps or 0.0, "rate"), "set.rate_pps"),
        Shown("On", Quantity(p.on_pct or 0.0, "percent"), "set.on_pct"),
        Shown("Background", Quantity(p.background_pct or 0.0, "percent"), "set.background_pct"),
    )


def _slope(plan: Plan) -> tuple[Shown, ...]:
    return () if plan.slopes.finish_a is None else (Shown("Finish", _amps(plan.slopes.finish_a)),)


def _strike_words(plan: Plan) -> Sentence:
    if plan.travel.arc_length_mm:
        return Sentence(
            "Arc {a} long, torch pushed, rod tip in the gas.", a=length(plan.travel.arc_length_mm)
        )
    return Sentence("A short arc, torch pushed, rod tip in the gas.")


def _seam_words(plan: Plan) -> Sentence:
    if (
        plan.pulse.pulsed
        and plan.pulse.rate_pps is not None
        and plan.pulse.rate_pps <= FOLLOWED_PPS
    ):
        return Sentence("Step to the leading edge before each peak.")
    if plan.filler.rod:
        return Sentence("Rod to the front of the pool; a small step ahead, back onto the thick.")
    return Sentence("A steady hand; watch the edge of the bead blend.")


def _taper_words(plan: Plan) -> Sentence:
    return (
        Sentence("Slowly to nothing, a dab into the crater; cut off short, it cracks.")
        if plan.filler.rod
        else Sentence("Slowly to nothing, back onto the bead; cut off short, it cracks.")
    )


def _amps(value: float) -> Quantity:
    return Quantity(value, "current")
