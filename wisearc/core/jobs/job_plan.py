"""The plan of a job: order, cost, steps, materials, distortion, and the effect of moving a seam."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cached_property

from msgspec import Struct

from ..physics.purge import MIN_VENT_MM
from ..plan.plan import Plan
from ..quantities import format_count, length
from ..reasons import LEVELS, Care, Caution, Note, Stop
from ..shop.shop import Shop
from .bench_state import Task
from .job import Job, find_section_key, find_section_keys, name_sections
from .materials import Materials, estimate_materials
from .order import Items, Schedule, TackOrders, Work, find_violations, schedule_order
from .problem import build_problem
from .search import SearchResult, search
from .warp import BOW, Pull, Warp, calculate_pull, calculate_warp, is_enclosed

ONE, BY_PIECE, BY_SEAM = "one", "piece", "seam"
# A larger difference between the sides, relative to their sum, bends the part: estimate.
LEAN_SHARE = 0.25
# The fewest parts of a closed body, and the fewest seams of each.
MIN_BOX_PARTS, MIN_BOX_SEAMS = 4, 3
# The number of schedules calculated to find the next best position among several pieces.
MAX_TIMED_RUNS = 20_000


class Best(Struct, frozen=True):
    """The selected order.

    Keys, lower bound of the cost s, whether it is proven best, and whether it is manual.
    """

    order: tuple[str, ...]
    bound_s: float
    proved: bool
    by_hand: bool = False


class Batch(Struct, frozen=True):
    """Several pieces of one job.

    The schedule by piece and the schedule by seam, and the cheaper one.
    """

    by_piece: Schedule
    by_seam: Schedule

    @property
    def cheaper(self) -> str:
        """Return the cheaper approach."""
        return BY_SEAM if self.by_seam.items.cost_s < self.by_piece.items.cost_s else BY_PIECE

    def way(self, name: str) -> Schedule:
        """Return the schedule of an approach."""
        return self.by_seam if name == BY_SEAM else self.by_piece


class JobPlan(Struct, frozen=True, dict=True):
    """The complete plan of a job, for one piece and for all."""

    work: Work
    best: Best
    one: Schedule
    batch: Batch | None
    shop: Shop

    @property
    def job(self) -> Job:
        """Return the job."""
        return self.work.job

    @property
    def all(self) -> Schedule:
        """Return the schedule of every piece by the cheaper approach."""
        return self.batch.way(self.batch.cheaper) if self.batch else self.one

    @cached_property
    def take(self) -> Materials:
        """Return the materials of every piece."""
        return estimate_materials(self.work.tasks, self.all.steps, self.shop)

    @cached_property
    def warps(self) -> dict[str, Warp]:
        """Return the distortion of each sheet seam."""
        distortion = {
            key: calculate_warp(
                task.plan, task.seam.free_mm, joined=is_enclosed(self.job, task.seam)
            )
            for key, task in self.work.tasks.items()
        }
        return {key: warp for key, warp in distortion.items() if warp is not None}

    @cached_property
    def pull(self) -> Pull:
        """Return the pull of all seams, by side and during the work."""
        return calculate_pull(self.job, self.warps, self.one.order)

    @cached_property
    def cautions(self) -> tuple[Caution, ...]:
        """Return the cautions for the complete job, most serious first."""
        return tuple(sorted(_list_cautions(self), key=lambda c: LEVELS.index(c.level)))


def build_work(job: Job, plans: Mapping[str, Plan]) -> Work:
    """Combine a job with the plan of each seam.

    Args:
        job: The job.
        plans: Plans by seam.
    """
    return Work(job, {seam.key: Task(seam, plans[seam.key]) for seam in job.seams})


def find_best_orders(work: Work, go_on: Callable[[], bool], pieces: int = 1) -> Iterator[Best]:
    """Yield improving orders of a job from `search`.

    Args:
        work: The job with its plans.
        go_on: Returns False to stop.
        pieces: Number of pieces. With more than one, each seam is welded on all of them before the
            next.
    """
    problem = build_problem(work, pieces)
    tacks = work.tack_ends if work.job.tack_up else None
    for result in search(problem, go_on):
        yield _build_best(work, problem.keys, result, tacks)


def _build_best(
    work: Work, keys: Sequence[str], result: SearchResult, tacks: TackOrders | None
) -> Best:
    order = tuple(keys[j] for j in result.order)
    if tacks is None or tacks.is_proved or not order:
        return Best(order, result.bound_s, result.proved)
    # Other tacks can save this at most.
    gap_s = max(0.0, work.find_tack_end(work.tasks[order[0]]).start_s - tacks.bound_s)
    return Best(order, result.bound_s - gap_s, False)


def find_best_order(work: Work, go_on: Callable[[], bool], pieces: int = 1) -> Best:
    """Return the best order when it is proven or the search is stopped.

    Args:
        work: The job with its plans.
        go_on: Returns False to stop.
        pieces: Number of pieces.
    """
    *_, best = find_best_orders(work, go_on, pieces)
    return best


def judge_manual_order(work: Work, order: Sequence[str], best: Best) -> Best:
    """Return a manual order with the bounds of the best one.

    Args:
        work: The job with its plans.
        order: The manual order.
        best: The best known order.
    """
    cost = schedule_order(work, order).items.cost_s
    proved = best.proved and not find_violations(work, order) and abs(cost - best.bound_s) < 1e-6
    return Best(tuple(order), min(best.bound_s, cost), proved, True)


def plan_of_order(
    work: Work, best: Best, shop: Shop, batch: Sequence[str] | None = None
) -> JobPlan:
    """Return the plan of a job in an order.

    Args:
        work: The job with its plans.
        best: The order.
        shop: The shop.
        batch: Order for welding each seam on all pieces, or None for the same.
    """
    pieces = work.job.quantity
    several = None
    if pieces > 1:
        ways = [
            schedule_order(work, order, pieces, by_seam=True)
            for order in {tuple(batch or best.order): 0, best.order: 0}
        ]
        several = Batch(
            schedule_order(work, best.order, pieces),
            min(ways, key=lambda schedule: schedule.items.cost_s),
        )
    return JobPlan(work, best, schedule_order(work, best.order), several, shop)


def make_job_plan(
    job: Job,
    plans: Mapping[str, Plan],
    shop: Shop,
    go_on: Callable[[], bool],
    go_on_all: Callable[[], bool] | None = None,
) -> JobPlan:
    """Calculate the plan of a job: its order by search, and everything that follows.

    Args:
        job: A checked job.
        plans: Plans by seam.
        shop: The shop.
        go_on: Called often; returns False to stop the search.
        go_on_all: The same for the order of all pieces. None uses `go_on`.
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
    """Return an order with one seam moved.

    Args:
        order: The order.
        key: The seam.
        to: Its place from 0, limited to the ends.
    """
    rest = [seam_key for seam_key in order if seam_key != key]
    to = max(0, min(len(rest), to))
    return (*rest[:to], key, *rest[to:])


class Elsewhere(Struct, frozen=True):
    """A seam at another place: place from 0, order, additional cost s by item, and broken rules."""

    to: int
    order: tuple[str, ...]
    more_s: float
    items: Mapping[str, float]
    broken: tuple[str, ...]


def evaluate_move(
    work: Work, order: Sequence[str], key: str, to: int, approach: str = ONE
) -> Elsewhere:
    """Calculate the effect of moving a seam, or a section of it.

    Args:
        work: The job with its plans.
        order: The present order.
        key: The seam, or the name of its section.
        to: Its new place from 0.
        approach: One piece, or all by piece or by seam.
    """
    names = move_seam(name_sections(work.job, order), key, to)
    other = find_section_keys(work.job, names)
    now, then = _schedule(work, order, approach).items, _schedule(work, other, approach).items
    items = {name: getattr(then, name) - getattr(now, name) for name in Items.__struct_fields__}
    more = {name: value for name, value in items.items() if abs(value) > 0.05}
    wrong = [
        rule for rule in find_violations(work, other) if rule not in find_violations(work, order)
    ]
    return Elsewhere(names.index(key), other, then.cost_s - now.cost_s, more, tuple(wrong))


def _schedule(work: Work, order: Sequence[str], approach: str) -> Schedule:
    return schedule_order(
        work, order, 1 if approach == ONE else work.job.quantity, approach == BY_SEAM
    )


class PositionExplanation(Struct, frozen=True):
    """The explanation of a position.

    The rules that fix the seam, and the cheapest other place or None.
    """

    key: str
    place: int
    held: tuple[str, ...]
    next_best: Elsewhere | None


def explain_position(
    work: Work, order: Sequence[str], key: str, approach: str = ONE
) -> PositionExplanation:
    """Explain the position of a seam, with the next best place and its cost.

    All other seams keep their order.

    Args:
        work: The job with its plans.
        order: The order.
        key: The seam, or the name of its section.
        approach: As for `evaluate_move`.
    """
    place = name_sections(work.job, order).index(key)
    seam_key = find_section_key(work.job, key)
    held = tuple(
        pair.words
        for pair in work.before
        if seam_key in (pair.one, pair.other) and pair.why in ("after", "hides")
    )
    pinned = [
        text
        for at, text in (
            (work.job.first, "it is pinned first"),
            (work.job.last, "it is pinned last"),
        )
        if at == seam_key
    ]
    to = _find_cheapest_place(work, order, key, place, approach)
    return PositionExplanation(
        key,
        place,
        (*pinned, *held),
        None if to is None else evaluate_move(work, order, key, to, approach),
    )


def _find_cheapest_place(
    work: Work, order: Sequence[str], key: str, place: int, approach: str
) -> int | None:
    """Return the cheapest other place of a seam that breaks no new rule, the nearest of equal ones.

    For many seams and pieces the estimate of the waits between pieces is slightly too long.
    """
    exactly = approach != ONE and len(order) ** 2 * work.job.quantity <= MAX_TIMED_RUNS
    problem = build_problem(work, work.job.quantity if approach == BY_SEAM else 1)
    names = name_sections(work.job, order)
    now, prices = set(find_violations(work, order)), []
    for to in range(len(order)):
        other = find_section_keys(work.job, move_seam(names, key, to))
        if to != place and set(find_violations(work, other)) <= now:
            cost = (
                _schedule(work, other, approach).items.cost_s
                if exactly
                else problem.cost_s(problem.number_steps(other))
            )
            prices.append((round(cost, 6), abs(to - place), to))
    return min(prices)[2] if prices else None


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
    yield from _check_tack_up(job)
    yield from _check_closed_box(plan)
    bows = [key for key, warp in plan.warps.items() if warp.verdict == BOW]
    if bows:
        text = "{n} will probably bow {their} sheet: {k}. See Distortion for ways to reduce it."
        yield Care(
            "will-bow",
            "warp",
            text,
            n=format_count(len(bows), "seam"),
            their="its" if len(bows) == 1 else "their",
            k=", ".join(bows),
        )
    pull = plan.pull
    sides = pull.left_kn + pull.right_kn
    if sides and abs(pull.lean_kn) > (LEAN_SHARE + 1e-9) * sides:
        more, less = ("left", "right") if pull.lean_kn > 0 else ("right", "left")
        text = (
            "The {m} pulls with {a} kN and the {l} with {b} kN. The part bends towards "
            "the {m}. Pair its seams, or clamp against the bend."
        )
        a, b = (pull.left_kn, pull.right_kn) if pull.lean_kn > 0 else (pull.right_kn, pull.left_kn)
        yield Care("pulls-one-side", "warp", text, m=more, l=less, a=f"{a:.0f}", b=f"{b:.0f}")
    yield from _check_stock(plan)


def _check_tack_up(job: Job) -> Iterator[Caution]:
    """Return the cautions for seams that a tacked part covers before they are welded."""
    for seam in job.seams if job.tack_up else ():
        if seam.hides:
            text = (
                "Tacks of {k} cover {h} before it is welded. Weld {h} before those tacks, or do "
                "not tack the assembly first."
            )
            yield Care("tacks-hide", seam.key, text, k=seam.key, h=" and ".join(seam.hides))


def _check_closed_box(plan: JobPlan) -> Iterator[Caution]:
    """Return the cautions for parts that close a space: a vent hole, and bars that stay inside.

    Three or more seams at every part make a closed body.
    """
    job = plan.job
    count = Counter(part for seam in job.seams for part in set(seam.joins))
    if len(count) < MIN_BOX_PARTS or min(count.values()) < MIN_BOX_SEAMS:
        return
    text = (
        "These seams close a space. The trapped air expands and blows out the last pool. Drill a "
        "vent hole of at least {d} first, where it does not show."
    )
    yield Care("closed-box", "parts", text, d=length(MIN_VENT_MM))
    last = plan.one.order[-1]
    if plan.work.tasks[last].plan.back.barred:
        text = (
            "{k} closes the space with bars inside. They cannot be removed again. Purge the last "
            "seam through the vent hole, or leave out its bars."
        )
        yield Care("bars-trapped", last, text, k=last)


def _check_stock(plan: JobPlan) -> Iterator[Caution]:
    take = plan.take
    if take.lacking_l > 0:
        text = (
            "The cylinders are {l} L short for {n}. They would run empty during the "
            "weld. Get one before you start."
        )
        of = format_count(plan.job.quantity, "piece")
        yield Care(
            "job-argon-short",
            "take",
            text,
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
        text = "Not enough in stock: " + ", ".join(f"{{w{i}}}" for i in range(len(short))) + "."
        yield Care(
            "job-short", "take", text, **{f"w{i}": item.words for i, item in enumerate(short)}
        )
