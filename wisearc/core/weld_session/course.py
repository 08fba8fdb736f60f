"""The events of a run from all devices, replayed through its steps, and the summary.

An event is a key, pressed at a step at a moment. An event for another step is rejected, reported,
and never interpreted. A signal of the arc belongs to no step (`ANY_STEP`). It moves the step that
is current at its moment, if that step has a use for it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

from msgspec import Struct

from .steps import END, FILLING, RunSteps, Step

# The maximum number of events of a run, and its maximum duration, s. A run never lasts years.
MAX_ACTS, MAX_DURATION_S = 2000, 24 * 3600.0
# The step of a signal, and the key that goes back to the step before.
ANY_STEP, BACK = "*", "back"
# The signals of the arc, from a power source or from a device that senses it.
SIGNALS = ("strike", "long", "tack", "full", "late", "taper", "rise", "off", "gas-off")
# An arc that stops after this share of its planned time ends the seam; an earlier one has broken. A
# taper ends the seam sooner. Estimate: welders differ by a fifth from the planned travel speed.
ENDED_SHARE, TAPERED_SHARE = 0.8, 0.5
# A pool time above this multiple of the limit was not observed: nobody pressed the key.
OBSERVED_LIMITS = 3.0
# Keys at the end of a pool whose time is not the time of a pool.
_UNOBSERVED_POOL = frozenset({"late", "timed", "tack", "off", "arc-off"})


class RunEvent(Struct, frozen=True):
    """A pressed key.

    Its number, device, moment (s since 1970), step and key; or an automatic key at the end of a
    countdown.
    """

    id: str
    device: str
    at: float
    step: str
    key: str


class Visit(Struct, frozen=True):
    """A step in the course of a run.

    Key, start and end (None: current) s since 1970, and the key that ended it.
    """

    step: str
    start: float
    end: float | None
    by: str = ""

    def lasted_s(self, now: float) -> float:
        """Return its duration until now, s."""
        return max(0.0, (now if self.end is None else self.end) - self.start)


class Course(Struct, frozen=True):
    """The course of a run.

    Its visits in order, the last of which is current, and the rejected events.
    """

    score: RunSteps
    visits: tuple[Visit, ...]
    rejected: tuple[RunEvent, ...]

    @property
    def step(self) -> Step:
        """Return the current step."""
        return self.score.step(self.visits[-1].step)

    @property
    def done(self) -> bool:
        """Return whether the run is done."""
        return self.visits[-1].step == END

    def of(self, *prefixes: str) -> list[Visit]:
        """Return the visits of steps with a key prefix."""
        return [v for v in self.visits if v.step.partition("-")[0] in prefixes]


class RunSummary(Struct, frozen=True):
    """The summary of a run.

    Arc time and its parts s, pool times s, restarts, tungsten contacts, tacks, pulse cycles, gas
    time s, welded length mm, purge time before the first arc s. `is_timed`: the clock moved it, so
    its times are planned ones. `is_pool_from_log`: the current showed when it was full.
    """

    arc_s: float
    seam_s: float
    pool_s: tuple[float, ...]
    taper_s: float | None
    held_s: float | None
    restarts: int
    touched: int
    tacks: int
    beats: int | None
    length_mm: float
    slow_pools: int
    purge_s: float | None = None
    is_timed: bool = False
    is_pool_from_log: bool = False


# Automatic events: the end of a countdown, the clock in timed mode, and the arc in the events of
# earlier versions.
_BY_ITSELF: Mapping[str, Callable[[Step], str]] = {
    "counted": lambda s: s.then,
    "timed": lambda s: s.timed_to,
    "arc-on": lambda s: s.led.get("strike", ""),
    "arc-off": lambda s: s.led.get("off", ""),
}


def replay_events(score: RunSteps, acts: Iterable[RunEvent], began: float) -> Course:
    """Replay events through the steps of a run in order of time, by definition.

    Args:
        score: The steps.
        acts: The events.
        began: Start of the first step, s since 1970.
    """
    known = {step.key: step for step in score.steps}
    current, since = score.steps[0], began
    visits: list[Visit] = []
    rejected: list[RunEvent] = []
    for act in sorted(acts, key=lambda a: (a.at, a.id)):
        act_at = max(act.at, since)
        if act.key == BACK and act.step == current.key and visits:
            undone = visits.pop()
            current, since = known[undone.step], undone.start
            continue
        if act.step == ANY_STEP:
            to = _find_led_step(current, act.key, visits, act_at - since)
        else:
            to = _find_next_step(current, act.key) if act.step == current.key else None
        if to is None or to not in known:
            if act.step != ANY_STEP:
                rejected.append(act)
            continue
        visits.append(Visit(current.key, since, act_at, act.key))
        current, since = known[to], act_at
    return Course(score, (*visits, Visit(current.key, since, None)), tuple(rejected))


def _find_led_step(step: Step, signal: str, visits: Iterable[Visit], lasted_s: float) -> str | None:
    """Return the next step for a signal of the arc, or None.

    A stop of the arc ends the part of the seam, or breaks it, by its arc time so far.

    Args:
        step: The current step.
        signal: The signal.
        visits: The steps before it.
        lasted_s: Duration of the current step, s.
    """
    if signal != "off" or not step.part_s:
        return step.led.get(signal)
    part = step.key.partition("-")[2]
    welded_s = sum(
        v.lasted_s(0.0) for v in visits if v.step in (f"seam-{part}", f"taper-{part}")
    ) + (lasted_s if step.phase in ("seam", "taper") else 0.0)
    if not welded_s and "off-unformed" in step.led:
        return step.led["off-unformed"]
    limit = TAPERED_SHARE if step.phase == "taper" else ENDED_SHARE
    return step.led["off" if welded_s >= limit * step.part_s else "off-broken"]


def _find_next_step(step: Step, key: str) -> str | None:
    if key in _BY_ITSELF:
        return _BY_ITSELF[key](step) or None
    return next((k.to for k in step.keys if k.key == key), None)


def summarise_run(course: Course, now: float) -> RunSummary:
    """Summarise a run so far, by definition.

    A restart is a second strike of a run of the seam, except strikes without a pool. The welded
    length counts runs with a completed gas time. The pulse cycles follow from the set frequency and
    the time at the seam.

    Args:
        course: The course.
        now: The present time, s since 1970.
    """
    score = course.score
    steps: Mapping[str, Step] = {s.key: s for s in score.steps}
    # A short arc that is a tack is no part of the seam.
    arc = sum(v.lasted_s(now) for v in course.visits if steps[v.step].arc and v.by != "tack")
    seams, tapers = course.of("seam"), course.of("taper")
    holds = [v for v in course.of("hold", "broke") if v.end is not None]
    seam = sum(v.lasted_s(now) for v in seams)
    limits = {s.key: s.limit_s or 0.0 for s in score.steps}
    pools = [v for v in course.of("pool") if _is_observed_pool(v, limits[v.step], now)]
    reached = sum(
        s.to_mm - s.from_mm
        for s in score.steps
        if s.phase == "seam" and _is_finished(course, s.key.partition("-")[2])
    )
    rate = score.rate_pps
    return RunSummary(
        arc_s=arc,
        seam_s=seam,
        pool_s=tuple(v.lasted_s(now) for v in pools),
        taper_s=tapers[-1].lasted_s(now) if tapers else None,
        held_s=min((v.lasted_s(now) for v in holds), default=None),
        restarts=sum(max(0, n - 1) for n in _count_strikes(course).values()),
        touched=len(course.of("touched")),
        tacks=sum(_is_tack(v) for v in course.visits),
        beats=None if rate is None else int(seam * rate),
        length_mm=reached,
        slow_pools=sum(v.lasted_s(now) > limits[v.step] for v in pools if limits[v.step]),
        purge_s=_measure_purge_s(course, now),
        is_timed=any(v.by == "timed" for v in course.visits),
        is_pool_from_log=any(v.by == "full" for v in pools),
    )


def _is_observed_pool(pool: Visit, limit_s: float, now: float) -> bool:
    """Return whether the time of a pool was observed: by a key near it, or by the current."""
    if pool.by in _UNOBSERVED_POOL:
        return False
    return not limit_s or pool.lasted_s(now) <= OBSERVED_LIMITS * limit_s


def _is_tack(visit: Visit) -> bool:
    """Return whether a step was a tack weld: a pressed key at a tack line, or a short arc."""
    return visit.by == "tack" or (visit.by == "main" and visit.step.startswith("tack"))


def _measure_purge_s(course: Course, now: float) -> float | None:
    """Return the time of the purge before the first arc, s, or None without one."""
    filling = course.of("purge")
    begun = next((v.start for v in filling if v.step == FILLING), None)
    if begun is None:
        return None
    first = next((v.start for v in course.visits if v.start > begun and _starts_arc(v)), now)
    return max(0.0, first - begun)


def _starts_arc(visit: Visit) -> bool:
    return visit.step.partition("-")[0] in ("tack", "tacks", "pool")


def _count_strikes(course: Course) -> dict[str, int]:
    """Return the number of strikes with a pool for each run of the seam."""
    counts: dict[str, int] = {}
    following = [v.step for v in course.visits[1:]] + [""]
    for visit, after in zip(course.visits, following, strict=True):
        kind, _, run = visit.step.partition("-")
        if kind == "pool" and not after.endswith("-again") and visit.by != "tack":
            counts[run] = counts.get(run, 0) + 1
    return counts


def _is_finished(course: Course, run: str) -> bool:
    """Return whether a run of the seam was welded and its gas time completed."""
    keys = [v.step for v in course.visits]
    last = max(
        (i for i, key in enumerate(keys) if key in (f"seam-{run}", f"pool-{run}")), default=None
    )
    return last is not None and f"hold-{run}" in keys[last:]
