"""The plan of a job: the order, what it costs, the steps, what it takes, how it warps; and what
moving a seam would do.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cached_property

from msgspec import Struct

from ..plan.plan import Plan
from ..quantities import format_count
from ..reasons import LEVELS, Care, Caution, Note, Stop
from ..shop.shop import Shop
from .bench_state import Task
from .job import Job
from .materials import Materials, estimate_materials
from .order import Items, Schedule, Work, find_violations, schedule_order
from .problem import build_problem
from .search import Found, search
from .warp import BOW, Pull, Warp, calculate_warp, pull_of

ONE, BY_PIECE, BY_SEAM = "one", "piece", "seam"
# a side that pulls so much more of what both do bends the part: estimate
LEAN_SHARE = 0.25
# runs that are timed to find a seam's next best place among several pieces
MAX_TIMED_RUNS = 20_000


class Best(Struct, frozen=True):
    """The order that is taken: its keys, what none can cost less than, s, whether it is proved
    best, and whether a hand put it so.
    """

    order: tuple[str, ...]
    bound_s: float
    proved: bool
    by_hand: bool = False


class Batch(Struct, frozen=True):
    """Several of one job: each way over time, by the piece in the order of one and by the seam in
    an order of its own; which is cheaper.
    """

    by_piece: Schedule
    by_seam: Schedule

    @property
    def cheaper(self) -> str:
        """The cheaper way."""
        return BY_SEAM if self.by_seam.items.cost_s < self.by_piece.items.cost_s else BY_PIECE

    def way(self, name: str) -> Schedule:
        """A way over time."""
        return self.by_seam if name == BY_SEAM else self.by_piece


class JobPlan(Struct, frozen=True, dict=True):
    """All of a job worked out, for the runs of one piece and of all."""

    work: Work
    best: Best
    one: Schedule
    batch: Batch | None
    shop: Shop

    @property
    def job(self) -> Job:
        """The job."""
        return self.work.job

    @property
    def all(self) -> Schedule:
        """Every piece, the cheaper way."""
        return self.batch.way(self.batch.cheaper) if self.batch else self.one

    @cached_property
    def take(self) -> Materials:
        """What every piece takes."""
        return estimate_materials(self.work.tasks, self.all.steps, self.shop)

    @cached_property
    def warps(self) -> dict[str, Warp]:
        """The warp of each seam that has one."""
        found = {
            key: calculate_warp(task.plan, task.seam.free_mm)
            for key, task in self.work.tasks.items()
        }
        return {key: warp for key, warp in found.items() if warp is not None}

    @cached_property
    def pull(self) -> Pull:
        """The pull of all seams, by side and on the way."""
        return pull_of(self.job, self.warps, self.one.order)

    @cached_property
    def cautions(self) -> tuple[Caution, ...]:
        """What to mind of the job as a whole, most serious first."""
        return tuple(sorted(_list_cautions(self), key=lambda c: LEVELS.index(c.level)))


def build_work(job: Job, plans: Mapping[str, Plan]) -> Work:
    """A job with the plan of each seam. Parameters: plans, by seam."""
    return Work(job, {seam.key: Task(seam, plans[seam.key]) for seam in job.seams})


def find_best_orders(work: Work, go_on: Callable[[], bool], pieces: int = 1) -> Iterator[Best]:
    """Ever better orders of a job, as `search` finds them. Parameters: pieces, more than one: each
    seam over all of them before the next.
    """
    problem = build_problem(work, pieces)
    for found in search(problem, go_on):
        yield _build_best(problem.keys, found)


def _build_best(keys: Sequence[str], found: Found) -> Best:
    return Best(tuple(keys[j] for j in found.order), found.bound_s, found.proved)


def find_best_order(work: Work, go_on: Callable[[], bool], pieces: int = 1) -> Best:
    """The best order that was found until it was proved or stopped."""
    *_, best = find_best_orders(work, go_on, pieces)
    return best


def judge_manual_order(work: Work, order: Sequence[str], best: Best) -> Best:
    """An order that a hand has put, with what is known of the best one."""
    cost = schedule_order(work, order).items.cost_s
    proved = best.proved and not find_violations(work, order) and abs(cost - best.bound_s) < 1e-6
    return Best(tuple(order), min(best.bound_s, cost), proved, True)


def plan_of_order(
    work: Work, best: Best, shop: Shop, batch: Sequence[str] | None = None
) -> JobPlan:
    """A job's plan in an order. Parameters: batch, the order in which each seam is welded over all
    pieces; None: the same.
    """
    pieces = work.job.quantity
    several = None
    if pieces > 1:
        ways = [
            schedule_order(work, order, pieces, by_seam=True)
            for order in {tuple(batch or best.order): 0, best.order: 0}
        ]
        several = Batch(
            schedule_order(work, best.order, pieces), min(ways, key=lambda way: way.items.cost_s)
        )
    return JobPlan(work, best, schedule_order(work, best.order), several, shop)


def make_job_plan(
    job: Job,
    plans: Mapping[str, Plan],
    shop: Shop,
    go_on: Callable[[], bool],
    go_on_all: Callable[[], bool] | None = None,
) -> JobPlan:
    """Work out a job: its order by search, all else from it. Parameters: plans, by seam; go_on,
    asked often whether to go on searching; go_on_all, the same for the order of all pieces, None:
    as long.

    Raises nothing of its own for a checked job.
    """
    work = build_work(job, plans)
    best = find_best_order(work, go_on)
    if job.order:
        best = judge_manual_order(work, job.order, best)
    batch = (
        find_best_order(work, go_on_all or go_on, job.quantity).order if job.quantity > 1 else None
    )
    return plan_of_order(work, best, shop, batch)


def move_seam(order: Sequence[str], key: str, to: int) -> tuple[str, ...]:
    """An order with a seam put elsewhere. Parameters: to, its place from 0, the ends beyond."""
    rest = [one for one in order if one != key]
    to = max(0, min(len(rest), to))
    return (*rest[:to], key, *rest[to:])


class Elsewhere(Struct, frozen=True):
    """A seam in another place: which (from 0), the order, what it costs more than now, s, item by
    item, and which rules it breaks.
    """

    to: int
    order: tuple[str, ...]
    more_s: float
    items: Mapping[str, float]
    broken: tuple[str, ...]


def evaluate_move(work: Work, order: Sequence[str], key: str, to: int, way: str = ONE) -> Elsewhere:
    """What putting a seam elsewhere does. Parameters: way, for one piece, or all of them by the
    piece or by the seam.
    """
    other = move_seam(order, key, to)
    now, then = _schedule(work, order, way).items, _schedule(work, other, way).items
    items = {name: getattr(then, name) - getattr(now, name) for name in Items.__struct_fields__}
    more = {name: value for name, value in items.items() if abs(value) > 0.05}
    wrong = [
        rule for rule in find_violations(work, other) if rule not in find_violations(work, order)
    ]
    return Elsewhere(other.index(key), other, then.cost_s - now.cost_s, more, tuple(wrong))


def _schedule(work: Work, order: Sequence[str], way: str) -> Schedule:
    return schedule_order(work, order, 1 if way == ONE else work.job.quantity, way == BY_SEAM)


class WhyHere(Struct, frozen=True):
    """Why a seam stands where it does: what holds it there, and the cheapest place that it could
    have instead, None where it has none.
    """

    key: str
    place: int
    held: tuple[str, ...]
    next_best: Elsewhere | None


def explain_position(work: Work, order: Sequence[str], key: str, way: str = ONE) -> WhyHere:
    """What holds a seam in its place, and the next best place with its price, all others in their
    order. Parameters: way, as for `evaluate_move`.
    """
    place = list(order).index(key)
    held = tuple(
        pair.words
        for pair in work.before
        if key in (pair.one, pair.other) and pair.why in ("after", "hides")
    )
    pinned = [
        words
        for at, words in (
            (work.job.first, "it is pinned first"),
            (work.job.last, "it is pinned last"),
        )
        if at == key
    ]
    to = _find_cheapest_place(work, order, key, place, way)
    return WhyHere(
        key,
        place,
        (*pinned, *held),
        None if to is None else evaluate_move(work, order, key, to, way),
    )


def _find_cheapest_place(
    work: Work, order: Sequence[str], key: str, place: int, way: str
) -> int | None:
    """The place where a seam costs least, all others in their order, that breaks no rule it does
    not break now; of like ones the nearest.

    Many seams of many pieces are weighed by their figures, which take the waits between pieces a
    little too long.
    """
    exactly = way != ONE and len(order) ** 2 * work.job.quantity <= MAX_TIMED_RUNS
    problem = build_problem(work, work.job.quantity if way == BY_SEAM else 1)
    number = {one: j for j, one in enumerate(problem.keys)}

    def wrong(other: Sequence[str]) -> set[tuple[int, int]]:
        at = {number[one]: i for i, one in enumerate(other)}
        return {pair for pair in problem.before if at[pair[0]] > at[pair[1]]}

    now, found = wrong(order), []
    for to in range(len(order)):
        other = move_seam(order, key, to)
        if to != place and wrong(other) <= now:
            cost = (
                _schedule(work, other, way).items.cost_s
                if exactly
                else problem.cost_s(number[one] for one in other)
            )
            found.append((round(cost, 6), abs(to - place), to))
    return min(found)[2] if found else None


def _list_cautions(plan: JobPlan) -> Iterator[Caution]:
    job, work = plan.job, plan.work
    wrong = find_violations(work, plan.one.order)
    if wrong:
        yield Stop(
            "order-cannot-be",
            "order",
            ("This sequence is not possible: {w}. Move the seam, or use the proposed sequence."),
            w="; ".join(wrong),
        )
    for key, task in work.tasks.items():
        stops = [c for c in task.plan.cautions if c.level == "stop"]
        if stops:
            yield Stop(
                "seam-stopped",
                key,
                "Do not weld {k} as planned: {w}",
                k=key,
                w=stops[0].sentence,
            )
    if job.unjoined:
        yield Note(
            "part-not-joined",
            "parts",
            "No seam joins {p}. Add its seam, or remove it from the job.",
            p=", ".join(job.unjoined),
        )
    bows = [key for key, warp in plan.warps.items() if warp.verdict == BOW]
    if bows:
        words = "{n} will probably bow {their} sheet: {k}. See Distortion for ways to reduce it."
        yield Care(
            "will-bow",
            "warp",
            words,
            n=format_count(len(bows), "seam"),
            their="its" if len(bows) == 1 else "their",
            k=", ".join(bows),
        )
    pull = plan.pull
    sides = pull.left_kn + pull.right_kn
    if sides and abs(pull.lean_kn) > LEAN_SHARE * sides:
        more, less = ("left", "right") if pull.lean_kn > 0 else ("right", "left")
        words = (
            "The {m} pulls with {a} kN and the {l} with {b} kN. The part bends towards "
            "the {m}. Pair its seams, or clamp against the bend."
        )
        a, b = (pull.left_kn, pull.right_kn) if pull.lean_kn > 0 else (pull.right_kn, pull.left_kn)
        yield Care("pulls-one-side", "warp", words, m=more, l=less, a=f"{a:.0f}", b=f"{b:.0f}")
    yield from _check_stock(plan)


def _check_stock(plan: JobPlan) -> Iterator[Caution]:
    take = plan.take
    if take.lacking_l > 0:
        words = (
            "The cylinders are {l} L short for {n}. They would run empty during the "
            "weld. Get one before you start."
        )
        of = format_count(plan.job.quantity, "piece")
        yield Care(
            "job-argon-short",
            "take",
            words,
            l=f"{take.lacking_l:.0f}",
            n=of,
        )
    ends = [use for use in take.cylinders if use.ends_at]
    if ends:
        where = "; ".join(
            f"{use.name} at {use.ends_at}"
            + (f", piece {use.piece}" if plan.job.quantity > 1 else "")
            for use in ends
        )
        yield Note(
            "cylinder-ends",
            "take",
            "A cylinder runs out in the middle of a seam: {w}. Change it before that seam.",
            w=where,
        )
    short = [item for item in take.buy if item.list != "cylinders"]
    if short:
        words = "Not enough in stock: " + ", ".join(f"{{w{i}}}" for i in range(len(short))) + "."
        yield Care(
            "job-short", "take", words, **{f"w{i}": item.words for i, item in enumerate(short)}
        )
