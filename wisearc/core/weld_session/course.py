"""The events of a run from all devices, replayed through its steps, and the summary.

An event is a key, pressed at a step at a moment. An event for another step is rejected, reported,
and never interpreted.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

from msgspec import Struct

from .steps import END, RunSteps, Step

# The maximum number of events of a run, and its maximum duration, s. A run never lasts years.
MAX_ACTS, MAX_DURATION_S = 2000, 24 * 3600.0


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
    """A step in the course of a run: key, start and end (None: current), s since 1970."""

    step: str
    start: float
    end: float | None

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
    time s, welded length mm.
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


# Automatic events: the end of a countdown, and the arc of a power source.
_BY_ITSELF: Mapping[str, Callable[[Step], str]] = {
    "counted": lambda s: s.then,
    "arc-on": lambda s: s.on_to,
    "arc-off": lambda s: s.off_to,
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
        to = _find_next_step(current, act.key) if act.step == current.key else None
        if to is None or to not in known:
            rejected.append(act)
            continue
        visits.append(Visit(current.key, since, act_at))
        current, since = known[to], act_at
    return Course(score, (*visits, Visit(current.key, since, None)), tuple(rejected))


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
    arc = sum(v.lasted_s(now) for v in course.visits if steps[v.step].arc)
    pools, seams = course.of("pool"), course.of("seam")
    holds, tapers = [v for v in course.of("hold") if v.end is not None], course.of("taper")
    seam = sum(v.lasted_s(now) for v in seams)
    limits = {s.key: s.limit_s or 0.0 for s in score.steps}
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
        tacks=len([v for v in course.of("tack") if v.end is not None]),
        beats=None if rate is None else int(seam * rate),
        length_mm=reached,
        slow_pools=sum(v.lasted_s(now) > limits[v.step] for v in pools if limits[v.step]),
    )


def _count_strikes(course: Course) -> dict[str, int]:
    """Return the number of strikes with a pool for each run of the seam."""
    counts: dict[str, int] = {}
    following = [v.step for v in course.visits[1:]] + [""]
    for visit, after in zip(course.visits, following, strict=True):
        kind, _, run = visit.step.partition("-")
        if kind == "pool" and not after.endswith("-again"):
            counts[run] = counts.get(run, 0) + 1
    return counts


def _is_finished(course: Course, run: str) -> bool:
    """Return whether a run of the seam was welded and its gas time completed."""
    keys = [v.step for v in course.visits]
    last = max(
        (i for i, key in enumerate(keys) if key in (f"seam-{run}", f"pool-{run}")), default=None
    )
    return last is not None and f"hold-{run}" in keys[last:]
