"""What was done of a run: the acts of hands, device by device, played through its steps; what it
comes to.

An act is a key pressed at a step at a moment. One that is not of the step that stands then is left
aside and told, never guessed at.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

from msgspec import Struct

from .steps import END, RunSteps, Step

# acts of one run, and the longest it lasts, s: years of taps are no run
MAX_ACTS, MAX_DURATION_S = 2000, 24 * 3600.0


class RunEvent(Struct, frozen=True):
    """A key pressed: its own number, the device it was pressed on, when (s since 1970), the step
    that stood there, the key; by itself where a count ran out.
    """

    id: str
    device: str
    at: float
    step: str
    key: str


class Visit(Struct, frozen=True):
    """A step as it was gone through: which, from when to when (None: it stands), s since 1970."""

    step: str
    start: float
    end: float | None

    def lasted_s(self, now: float) -> float:
        """How long it lasted, or lasts, s."""
        return max(0.0, (now if self.end is None else self.end) - self.start)


class Course(Struct, frozen=True):
    """How a run stands: its visits in order, the last of which stands; the acts that were left
    aside.
    """

    score: RunSteps
    visits: tuple[Visit, ...]
    aside: tuple[RunEvent, ...]

    @property
    def step(self) -> Step:
        """The step that stands."""
        return self.score.step(self.visits[-1].step)

    @property
    def done(self) -> bool:
        """Whether the run is done."""
        return self.visits[-1].step == END

    def of(self, *prefixes: str) -> list[Visit]:
        """The visits of steps whose key begins so."""
        return [v for v in self.visits if v.step.partition("-")[0] in prefixes]


class RunSummary(Struct, frozen=True):
    """What a run came to: arc time and its parts s, the pool's times s, restarts, touches, tacks,
    beats, how long the gas was held s, how far it went mm.
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


# what is no key: a count that ran out, and the arc of a power source coming on or going off
_BY_ITSELF: Mapping[str, Callable[[Step], str]] = {
    "counted": lambda s: s.then,
    "arc-on": lambda s: s.on_to,
    "arc-off": lambda s: s.off_to,
}


def replay_events(score: RunSteps, acts: Iterable[RunEvent], began: float) -> Course:
    """Acts played through the steps of a run, in the order of their moments. Parameters: began,
    when the first step began, s since 1970. By definition.
    """
    known = {step.key: step for step in score.steps}
    stands, since = score.steps[0], began
    visits: list[Visit] = []
    aside: list[RunEvent] = []
    for act in sorted(acts, key=lambda a: (a.at, a.id)):
        act_at = max(act.at, since)
        to = _find_next_step(stands, act.key) if act.step == stands.key else None
        if to is None or to not in known:
            aside.append(act)
            continue
        visits.append(Visit(stands.key, since, act_at))
        stands, since = known[to], act_at
    return Course(score, (*visits, Visit(stands.key, since, None)), tuple(aside))


def _find_next_step(step: Step, key: str) -> str | None:
    if key in _BY_ITSELF:
        return _BY_ITSELF[key](step) or None
    return next((k.to for k in step.keys if k.key == key), None)


def summarise_run(course: Course, now: float) -> RunSummary:
    """What a run came to so far. Parameters: now, s since 1970. By definition.

    A restart is a run of the seam struck again, but for strikes at which no pool came. How far it
    went: the runs that were held still after their seam. The beats are those of the rate that was
    set, over the time at the seam.
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
    """How often each run of the seam was struck with a pool that came."""
    found: dict[str, int] = {}
    following = [v.step for v in course.visits[1:]] + [""]
    for visit, after in zip(course.visits, following, strict=True):
        kind, _, run = visit.step.partition("-")
        if kind == "pool" and not after.endswith("-again"):
            found[run] = found.get(run, 0) + 1
    return found


def _is_finished(course: Course, run: str) -> bool:
    """Whether a run of the seam was welded, and held still after."""
    keys = [v.step for v in course.visits]
    last = max(
        (i for i, key in enumerate(keys) if key in (f"seam-{run}", f"pool-{run}")), default=None
    )
    return last is not None and f"hold-{run}" in keys[last:]
