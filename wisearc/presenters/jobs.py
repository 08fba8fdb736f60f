"""A job as its pages show it: the order and what it costs in words, the steps, why a seam stands
where it does, what it takes, how it warps.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property

from msgspec import Struct

from ..core.errors import InputError
from ..core.jobs.bench_state import Task
from ..core.jobs.job import Job, Seam
from ..core.jobs.job_plan import (
    BY_PIECE,
    BY_SEAM,
    ONE,
    Best,
    Elsewhere,
    JobPlan,
    build_work,
    evaluate_move,
    explain_position,
    judge_manual_order,
    plan_of_order,
)
from ..core.jobs.order import Schedule, Step, find_violations, order_reasons
from ..core.joint.joint import Joint
from ..core.joint.words import format_short_title, sentence_text
from ..core.quantities import format_count
from ..core.reasons import Reason, store_text
from ..core.shop.shop import Shop
from ..drawings.canvas import Drawing
from ..drawings.jobs.job_lay import draw_job_lay
from ..drawings.jobs.job_strip import draw_job_strip
from ..forms.jobs import list_seam_fields
from ..services.jobs.job_plans import plan_of_seam, plan_seams
from ..services.jobs.jobs import list_ticks, read_saved_job
from ..services.jobs.searching import Search, Searches
from ..services.planning.planning import query_text
from ..services.records import JobRow, JobTick

ITEM_WORDS = {
    "arc_s": "arc",
    "dial_s": "dial",
    "torch_s": "torch",
    "clamp_s": "clamping",
    "wait_s": "waiting",
    "balance_s": "lead on one side",
    "piece_s": "another piece",
}
COUNTS = {"dial": "dial", "torch": "torch change", "clamp": "clamping"}


class Rung(Struct, frozen=True):
    """A step as it is shown: seam, piece, its place in the order from 0, title, what is touched
    (what, words), when it begins, how long it waits and for whom, whether it is done, what it is
    pinned, the rules it breaks, what its plan says to stop for, whether its run was written down;
    how many cautions its plan has, and the query of its joint, or the number of its procedure.
    """

    key: str
    piece: int
    place: int
    title: str
    touched: tuple[tuple[str, str], ...]
    begins: str
    wait: str
    done: bool
    pinned: str
    wrong: tuple[str, ...]
    stop: str
    written: bool
    minds: int
    link: str
    procedure: str


class JobView(Struct, frozen=True, dict=True):
    """The content of a job's pages. Each part is calculated on first access.

    Args:
        row: The stored job.
        job: The parsed job.
        shop: The shop that the plan uses.
        searches: The searches for an order.
        habit: "mm" or "in".
        asked: Requested order of pieces, "piece", "seam" or "one"; "" for the cheaper.
        selected: Key of the selected seam.
        unread: Error of a job that cannot be parsed, or "".
    """

    row: JobRow
    job: Job
    shop: Shop
    searches: Searches
    habit: str
    asked: str = ""
    selected: str = ""
    unread: str = ""

    @cached_property
    def _planned(self) -> tuple[JobPlan, Search] | str:
        """The plan with its search, or the error as text; "" without seams."""
        if self.unread or not self.job.seams:
            return self.unread
        try:
            return plan_job(self.job, self.shop, self.searches)
        except InputError as error:
            return error.sentence

    @property
    def fault(self) -> str:
        """Why it cannot be planned, "" where it can."""
        return self._planned if isinstance(self._planned, str) else ""

    @property
    def plan(self) -> JobPlan | None:
        """Its plan, None where it cannot be planned or has no seams."""
        return None if isinstance(self._planned, str) else self._planned[0]

    @property
    def search(self) -> Search | None:
        """The search for its order."""
        return None if isinstance(self._planned, str) else self._planned[1]

    @property
    def way(self) -> str:
        """The way of welding several that is shown, "" for a single piece."""
        if self.plan is None or self.plan.batch is None:
            return ""
        return self.asked if self.asked in (BY_PIECE, BY_SEAM, ONE) else self.plan.batch.cheaper

    @cached_property
    def shown(self) -> Schedule | None:
        """The order that is shown, timed."""
        if self.plan is None:
            return None
        batch = self.plan.batch
        return self.plan.one if batch is None or self.way == ONE else batch.way(self.way)

    @cached_property
    def _ticks(self) -> Mapping[tuple[str, int], JobTick]:
        return list_ticks(self.row.id)

    @cached_property
    def rungs(self) -> tuple[Rung, ...]:
        """Its steps."""
        if self.plan is None or self.shown is None:
            return ()
        return tuple(
            _build_rung(
                self.plan, self.shown, step, i, self.habit, self._ticks.get((step.key, step.piece))
            )
            for i, step in enumerate(self.shown.steps)
        )

    @cached_property
    def lay(self) -> Drawing | None:
        """Its seams as they lie."""
        if self.plan is None or self.shown is None:
            return None
        pieces = range(1, self.job.quantity + 1)
        finished = {
            key
            for key in self.plan.work.tasks
            if all((key, piece) in self._ticks for piece in pieces)
        }
        end = f"&way={self.way}" if self.asked else ""
        return draw_job_lay(self.plan, self.shown, self.habit, self.selected, finished, end)

    @cached_property
    def strip(self) -> Drawing | None:
        """Its steps over time."""
        if self.plan is None or self.shown is None:
            return None
        return draw_job_strip(self.plan, self.shown, self.habit, self.selected)

    @property
    def summary(self) -> tuple[tuple[str, str], ...]:
        """Totals of the order."""
        return _summarise(self.shown) if self.shown else ()

    @property
    def sure(self) -> str:
        """How good the order is known to be."""
        if isinstance(self._planned, str):
            return ""
        return _describe_certainty(*self._planned, self.way)

    @property
    def notices(self) -> tuple[tuple[str, str], ...]:
        """Cautions of the plan: level, words."""
        cautions = self.plan.cautions if self.plan else ()
        return tuple((c.level, store_text(c.sentence).text(self.habit)) for c in cautions)

    @property
    def ways(self) -> tuple[tuple[str, str, str], ...]:
        """The ways of welding several: key, words, what each costs."""
        return _list_ways(self.plan) if self.plan else ()

    @property
    def items(self) -> tuple[tuple[str, float], ...]:
        """What the order's time goes to, s."""
        if self.shown is None:
            return ()
        items = self.shown.items
        return tuple(
            (words, round(getattr(items, key), 1))
            for key, words in ITEM_WORDS.items()
            if key != "piece_s" or items.piece_s
        )

    @property
    def done(self) -> int:
        """How many runs are ticked."""
        return sum(rung.done for rung in self.rungs)

    @property
    def order(self) -> tuple[str, ...]:
        """The order that is shown."""
        return self.shown.order if self.shown else ()


def format_duration(seconds: float) -> str:
    """A time in words: "45 s", "6 min", "1 h 52 min".

    >>> format_duration(45), format_duration(372), format_duration(6720)
    ('45 s', '6 min', '1 h 52 min')
    """
    if seconds < 99.5:
        return f"{seconds:.0f} s"
    minutes = round(seconds / 60)
    return f"{minutes} min" if minutes < 60 else f"{minutes // 60} h {minutes % 60} min"


def format_moment(seconds: float) -> str:
    """A moment of the work: "0:00", "2:40", "1:02:40"."""
    whole = round(seconds)
    hours, rest = divmod(whole, 3600)
    return f"{hours}:{rest // 60:02d}:{rest % 60:02d}" if hours else f"{rest // 60}:{rest % 60:02d}"


def view_of(
    row: JobRow, shop: Shop, searches: Searches, habit: str, way: str = "", selected: str = ""
) -> JobView:
    """What the pages of a job show. Parameters: way, "piece" or "seam", "" for the cheaper;
    selected, the seam that is looked at.
    """
    try:
        job, unread = read_saved_job(row), ""
    except InputError as error:
        job, unread = Job(row.title, 1, (), ()), error.sentence
    return JobView(row, job, shop, searches, habit, way, selected, unread)


def plan_job(job: Job, shop: Shop, searches: Searches) -> tuple[JobPlan, Search]:
    """The plan of a job in the order by hand, else in the best that was found so far. Raises
    InputError where a procedure is not there.
    """
    work = build_work(job, plan_seams(job, shop))
    search = searches.ask(work)
    best: Best = judge_manual_order(work, job.order, search.best) if job.order else search.best
    return (
        plan_of_order(work, best, shop, None if best.by_hand else searches.over_all(work)),
        search,
    )


def _build_rung(
    plan: JobPlan, shown: Schedule, step: Step, place: int, habit: str, tick: JobTick | None
) -> Rung:
    task, job = plan.work.tasks[step.key], plan.job
    touched = tuple((t.what, t.words.text(habit)) for t in step.touched)
    wait = (
        f"wait {format_duration(step.wait_s)} for {step.for_key} to cool"
        if step.wait_s >= 1
        else ""
    )
    pinned = "first" if job.first == step.key else "last" if job.last == step.key else ""
    at = {key: i for i, key in enumerate(shown.order)}
    wrong = tuple(
        p.words for p in plan.work.before if step.key == p.other and at[p.one] > at[p.other]
    )
    stops = [c for c in task.plan.cautions if c.level == "stop"]
    stop = store_text(stops[0].sentence).text(habit) if stops else ""
    seam = task.seam
    return Rung(
        step.key,
        step.piece,
        place,
        task.title.text(habit),
        touched,
        format_moment(step.start_s),
        wait,
        tick is not None,
        pinned,
        wrong,
        stop,
        tick is not None and getattr(tick, "run_id", None) is not None,
        sum(c.level == "caution" for c in task.plan.cautions),
        query_text(seam.joint) if seam.joint is not None else "",
        (seam.procedure or "").partition(" ")[0],
    )


def list_time_reasons() -> tuple[Reason, ...]:
    """What an order's times are reckoned by."""
    return order_reasons()


def _summarise(shown: Schedule) -> tuple[tuple[str, str], ...]:
    """What the order comes to: the clock, the arc, and how often what is touched."""
    found = [("", format_duration(shown.items.wall_s)), ("arc", format_duration(shown.items.arc_s))]
    for what, words in COUNTS.items():
        found.append(("", format_count(sum(what in step.changed_s for step in shown.steps), words)))
    found.append(("waiting", format_duration(shown.items.wait_s)))
    if shown.items.balance_s:
        found.append(("lead on one side counts", format_duration(shown.items.balance_s)))
    return tuple(found)


def _describe_certainty(plan: JobPlan, search: Search, way: str) -> str:
    """How good the order is known to be."""
    cost, best = plan.one.items.cost_s, plan.best
    if find_violations(plan.work, plan.one.order):
        return "this sequence is not possible"
    if best.by_hand:
        found = search.cost_s
        if cost > found + 0.5:
            return f"set manually; the best known sequence saves {format_duration(cost - found)}"
        return "set manually; no better sequence is known"
    if way == BY_SEAM:
        return "the best known sequence for all pieces"
    if best.proved:
        return "no sequence takes less (verified)"
    return (
        f"no better sequence found; another can save at most {format_duration(cost - best.bound_s)}"
    )


def _list_ways(plan: JobPlan) -> tuple[tuple[str, str, str], ...]:
    """The two ways of welding several: key, words, what each costs."""
    if plan.batch is None:
        return ()
    words = {BY_PIECE: "One piece after another", BY_SEAM: "Each seam on all pieces"}
    both = tuple(
        (key, words[key], format_duration(plan.batch.way(key).items.cost_s))
        for key in (BY_SEAM, BY_PIECE)
    )
    return (*both, (ONE, "Only one piece", format_duration(plan.one.items.cost_s)))


class Answer(Struct, frozen=True):
    """Why a seam stands where it does, in sentences, and the next best place with its price; or
    what putting it elsewhere does.
    """

    key: str
    place: int
    held: tuple[str, ...]
    next_place: int | None
    price: str


def explain_place(view: JobView, key: str) -> Answer | None:
    """Why a seam stands where it does. None where there is no such seam."""
    if view.plan is None or key not in view.plan.work.tasks:
        return None
    order, work = view.order, view.plan.work
    found = explain_position(work, order, key, view.way or ONE)
    held = [f"{words}." for words in found.held]
    held += _list_similarities(view, order, key)
    if found.next_best is None:
        return Answer(key, found.place, tuple(held), None, "It fits only at this place.")
    words = f"The next best is place {found.next_best.to + 1}: {format_price(found.next_best)}."
    return Answer(key, found.place, tuple(held), found.next_best.to, words)


def _list_similarities(view: JobView, order: Sequence[str], key: str) -> list[str]:
    """What a seam has in common with those before and after it."""
    assert view.plan is not None
    tasks, at, found = view.plan.work.tasks, list(order).index(key), []
    for other, words in (
        (order[at - 1] if at else "", "before it"),
        (order[at + 1] if at + 1 < len(order) else "", "after it"),
    ):
        if other:
            a, b = tasks[other], tasks[key]
            same = [
                name
                for name, one, two in (
                    ("dial", a.dial, b.dial),
                    ("torch", a.torch, b.torch),
                    ("clamping", a.clamped, b.clamped),
                )
                if one == two
            ]
            if same:
                found.append(f"It has the same {' and '.join(same)} as {other} {words}.")
    return found


def format_price(way: Elsewhere) -> str:
    """What a place costs more or less than now, item by item."""
    if abs(way.more_s) < 0.5 and not way.items:
        return "it takes the same time"
    more = [
        f"{ITEM_WORDS[name]} {'+' if s > 0 else '−'}{format_duration(abs(s))}"
        for name, s in way.items.items()
        if abs(s) >= 0.5
    ]
    whole = (
        "takes the same time"
        if abs(way.more_s) < 0.5
        else f"{format_duration(abs(way.more_s))} {'more' if way.more_s > 0 else 'less'}"
    )
    return f"{whole}" + (f" ({', '.join(more)})" if more else "")


def format_title(joint: Joint) -> str:
    """A joint in a few words."""
    return format_short_title(joint)


def describe_move(view: JobView, key: str, to: int) -> str:
    """What putting a seam elsewhere does, before it is done."""
    if view.plan is None or key not in view.plan.work.tasks:
        return ""
    way = evaluate_move(view.plan.work, view.order, key, to, view.way or ONE)
    wrong = f" It breaks a rule: {'; '.join(way.broken)}." if way.broken else ""
    return f"{key} at place {way.to + 1}: {format_price(way)}.{wrong}"


class SeamRow(Struct, frozen=True):
    """A seam as it is entered: what it is called, its joint in a sentence or why that cannot be
    had, its form's fields, the query of its joint ("" : by a procedure).
    """

    seam: Seam
    title: str
    words: str
    fields: dict[str, str]
    link: str


def build_seam_rows(job: Job, shop: Shop, habit: str) -> list[SeamRow]:
    """The seams of a job as they are entered."""
    found = []
    for seam in job.seams:
        try:
            task = Task(seam, plan_of_seam(seam, shop))
            title, words = task.title.text(habit), sentence_text(task.plan.sentence, habit)
        except InputError as error:
            title, words = seam.title, error.sentence
        found.append(
            SeamRow(
                seam,
                title,
                words,
                list_seam_fields(seam, habit),
                query_text(seam.joint) if seam.joint is not None else "",
            )
        )
    return found
