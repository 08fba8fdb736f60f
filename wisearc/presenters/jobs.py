"""A job as page contents: order, cost, steps, explanations, materials, distortion."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property

from msgspec import Struct
from msgspec.structs import replace

from ..core.errors import InputError
from ..core.jobs.bench_state import Task
from ..core.jobs.job import Job, Seam, find_section_key, name_sections
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
from ..core.jobs.order import CHECK, TACK, Schedule, find_violations, order_reasons
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
from ..services.jobs.order_searches import Search, Searches
from ..services.planning.planner import query_text
from ..services.records import JobRow, JobTick
from .job_steps import Rung, build_rung, format_duration

ITEM_LABELS = {
    "arc_s": "arc",
    "dial_s": "dial",
    "torch_s": "torch",
    "clamp_s": "clamping",
    "wait_s": "waiting",
    "balance_s": "lead on one side",
    "piece_s": "another piece",
    "tack_s": "tacks",
    "check_s": "checks for square",
}
# Items that many jobs do not have.
RARE_ITEMS = ("piece_s", "tack_s", "check_s")
COUNTS = {
    ("dial", "tack-dial"): "dial",
    ("torch",): "torch change",
    ("clamp",): "clamping",
}


class JobView(Struct, frozen=True, dict=True):
    """The content of a job's pages.

    Each part is calculated on first access.

    Attributes:
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
        """Return the reason that it cannot be planned, or ""."""
        return self._planned if isinstance(self._planned, str) else ""

    @property
    def plan(self) -> JobPlan | None:
        """Return its plan, or None without seams or with an error."""
        return None if isinstance(self._planned, str) else self._planned[0]

    @property
    def search(self) -> Search | None:
        """Return the search for its order."""
        return None if isinstance(self._planned, str) else self._planned[1]

    @property
    def way(self) -> str:
        """Return the displayed approach for several pieces, or "" for one."""
        if self.plan is None or self.plan.batch is None:
            return ""
        return self.asked if self.asked in (BY_PIECE, BY_SEAM, ONE) else self.plan.batch.cheaper

    @cached_property
    def shown(self) -> Schedule | None:
        """Return the displayed schedule."""
        if self.plan is None:
            return None
        batch = self.plan.batch
        return self.plan.one if batch is None or self.way == ONE else batch.way(self.way)

    @cached_property
    def _ticks(self) -> Mapping[tuple[str, int], JobTick]:
        return list_ticks(self.row.id)

    @cached_property
    def rungs(self) -> tuple[Rung, ...]:
        """Return its steps."""
        if self.plan is None or self.shown is None:
            return ()
        rungs, number = [], 0
        for i, step in enumerate(self.shown.steps):
            number += step.is_weld
            rung = build_rung(self.plan, self.shown, step, i, self.habit)
            tick = self._ticks.get((rung.line, step.piece))
            written = tick is not None and getattr(tick, "run_id", None) is not None
            rungs.append(replace(rung, number=number, done=tick is not None, written=written))
        return tuple(rungs)

    @cached_property
    def lay(self) -> Drawing | None:
        """Return the drawing of its seams."""
        if self.plan is None or self.shown is None:
            return None
        pieces = range(1, self.job.quantity + 1)
        left = {
            find_section_key(self.job, name)
            for name in name_sections(self.job, self.shown.order)
            if not all((name, piece) in self._ticks for piece in pieces)
        }
        finished = set(self.plan.work.tasks) - left
        end = f"&way={self.way}" if self.asked else ""
        return draw_job_lay(self.plan, self.shown, self.habit, self.selected, finished, end)

    @cached_property
    def strip(self) -> Drawing | None:
        """Return the drawing of its steps over time."""
        if self.plan is None or self.shown is None:
            return None
        return draw_job_strip(self.plan, self.shown, self.habit, self.selected)

    @property
    def summary(self) -> tuple[tuple[str, str], ...]:
        """Return the totals of the order."""
        return _summarise(self.shown) if self.shown else ()

    @property
    def tack_summary(self) -> str:
        """Return the totals of the tacks before the welds."""
        steps = [step for step in self.shown.steps if step.piece == 1] if self.shown else []
        tacked = [step for step in steps if step.kind == TACK]
        checks = sum(step.kind == CHECK for step in steps)
        lasted = next((step.start_s for step in steps if step.is_weld), 0.0)
        return (
            f"{format_count(len(tacked), 'seam')}, {format_count(checks, 'check')} for square, "
            f"{format_duration(lasted)}"
        )

    @property
    def sure(self) -> str:
        """Return the certainty of the order as text."""
        if isinstance(self._planned, str):
            return ""
        return _describe_certainty(*self._planned, self.way)

    @property
    def notices(self) -> tuple[tuple[str, str], ...]:
        """Return the cautions of the plan: level, text."""
        cautions = self.plan.cautions if self.plan else ()
        return tuple((c.level, store_text(c.sentence).text(self.habit)) for c in cautions)

    @property
    def ways(self) -> tuple[tuple[str, str, str], ...]:
        """Return the approaches for several pieces: key, text, cost."""
        return _list_ways(self.plan) if self.plan else ()

    @property
    def items(self) -> tuple[tuple[str, float], ...]:
        """Return the time of the order by item, s."""
        if self.shown is None:
            return ()
        items = self.shown.items
        return tuple(
            (text, round(getattr(items, key), 1))
            for key, text in ITEM_LABELS.items()
            if key not in RARE_ITEMS or getattr(items, key)
        )

    @property
    def done(self) -> int:
        """Return the number of ticked runs."""
        return sum(rung.done for rung in self.rungs)

    @property
    def order(self) -> tuple[str, ...]:
        """Return the displayed order, by the names of its steps."""
        return name_sections(self.job, self.shown.order) if self.shown else ()

    @property
    def seams(self) -> tuple[str, ...]:
        """Return the seams in the displayed order, each once."""
        return tuple(dict.fromkeys(self.shown.order)) if self.shown else ()


def build_job_view(
    row: JobRow, shop: Shop, searches: Searches, units: str, approach: str = "", selected: str = ""
) -> JobView:
    """Build the view of a job.

    Args:
        row: The stored job.
        shop: The shop.
        searches: The order searches.
        units: Unit system.
        approach: "piece" or "seam", or "" for the cheaper.
        selected: The selected seam.
    """
    try:
        job, unread = read_saved_job(row), ""
    except InputError as error:
        job, unread = Job(row.title, 1, (), ()), error.sentence
    return JobView(row, job, shop, searches, units, approach, selected, unread)


def plan_job(job: Job, shop: Shop, searches: Searches) -> tuple[JobPlan, Search]:
    """Return the plan of a job in the manual order, or in the best order so far, with its search.

    Args:
        job: The job.
        shop: The shop.
        searches: The order searches.

    Raises:
        InputError: A procedure is missing.
    """
    work = build_work(job, plan_seams(job, shop))
    search = searches.ask(work)
    best: Best = judge_manual_order(work, job.order, search.best) if job.order else search.best
    return (
        plan_of_order(work, best, shop, None if best.by_hand else searches.over_all(work)),
        search,
    )


def list_time_reasons() -> tuple[Reason, ...]:
    """Return the reasons for the times of an order."""
    return order_reasons()


def _summarise(displayed: Schedule) -> tuple[tuple[str, str], ...]:
    """Return the totals of a schedule: clock, arc, and number of set-up changes."""
    parts = [
        ("", format_duration(displayed.items.wall_s)),
        ("arc", format_duration(displayed.items.arc_s)),
    ]
    for keys, text in COUNTS.items():
        count = sum(any(key in step.changed_s for key in keys) for step in displayed.steps)
        parts.append(("", format_count(count, text)))
    parts.append(("waiting", format_duration(displayed.items.wait_s)))
    if displayed.items.balance_s:
        parts.append(("lead on one side counts", format_duration(displayed.items.balance_s)))
    return tuple(parts)


def _describe_certainty(plan: JobPlan, search: Search, schedule: str) -> str:
    """Return the certainty of the order as text."""
    cost, best = plan.one.items.cost_s, plan.best
    if find_violations(plan.work, plan.one.order):
        return "this sequence is not possible"
    if best.by_hand:
        cost_s = search.cost_s
        if cost > cost_s + 0.5:
            return f"set manually; the best known sequence saves {format_duration(cost - cost_s)}"
        return "set manually; no better sequence is known"
    if schedule == BY_SEAM:
        return "the best known sequence for all pieces"
    if best.proved:
        return "no sequence takes less (verified)"
    return (
        f"no better sequence found; another can save at most {format_duration(cost - best.bound_s)}"
    )


def _list_ways(plan: JobPlan) -> tuple[tuple[str, str, str], ...]:
    """Return the two approaches for several pieces: key, text, cost."""
    if plan.batch is None:
        return ()
    text = {BY_PIECE: "One piece after another", BY_SEAM: "Each seam on all pieces"}
    rows = tuple(
        (key, text[key], format_duration(plan.batch.way(key).items.cost_s))
        for key in (BY_SEAM, BY_PIECE)
    )
    return (*rows, (ONE, "Only one piece", format_duration(plan.one.items.cost_s)))


class Answer(Struct, frozen=True):
    """The explanation of a position in sentences, or the effect of a move.

    It has the next best place with its cost.
    """

    key: str
    place: int
    held: tuple[str, ...]
    next_place: int | None
    price: str


def explain_place(view: JobView, key: str) -> Answer | None:
    """Explain the position of a seam.

    Return None if the seam does not exist.

    Args:
        view: The job.
        key: The seam.
    """
    if view.plan is None or view.shown is None or key not in view.order:
        return None
    order, work = view.shown.order, view.plan.work
    explanation = explain_position(work, order, key, view.way or ONE)
    held = [f"{text}." for text in explanation.held]
    held += _list_similarities(view, order, explanation.place)
    if explanation.next_best is None:
        return Answer(key, explanation.place, tuple(held), None, "It fits only at this place.")
    better = explanation.next_best
    text = f"The next best is place {better.to + 1}: {format_price(better)}."
    return Answer(key, explanation.place, tuple(held), explanation.next_best.to, text)


def _list_similarities(view: JobView, order: Sequence[str], at: int) -> list[str]:
    """Return the common set-up of a seam with its neighbours."""
    assert view.plan is not None
    tasks, key, similarities = view.plan.work.tasks, order[at], list[str]()
    for other, text in (
        (order[at - 1] if at else "", "before it"),
        (order[at + 1] if at + 1 < len(order) else "", "after it"),
    ):
        if other and other != key:
            a, b = tasks[other], tasks[key]
            same = [
                name
                for name, row, two in (
                    ("dial", a.dial, b.dial),
                    ("torch", a.torch, b.torch),
                    ("clamping", a.clamped, b.clamped),
                )
                if row == two
            ]
            if same:
                similarities.append(f"It has the same {' and '.join(same)} as {other} {text}.")
    return similarities


def format_price(price: Elsewhere) -> str:
    """Return the additional or lower cost of a place by item."""
    if abs(price.more_s) < 0.5 and not price.items:
        return "it takes the same time"
    more = [
        f"{ITEM_LABELS[name]} {'+' if s > 0 else '−'}{format_duration(abs(s))}"
        for name, s in price.items.items()
        if abs(s) >= 0.5
    ]
    time_text = (
        "takes the same time"
        if abs(price.more_s) < 0.5
        else f"{format_duration(abs(price.more_s))} {'more' if price.more_s > 0 else 'less'}"
    )
    return f"{time_text}" + (f" ({', '.join(more)})" if more else "")


def format_title(joint: Joint) -> str:
    """Return a short title of a joint."""
    return format_short_title(joint)


def describe_move(view: JobView, key: str, to: int) -> str:
    """Return the effect of a move before it is made.

    Args:
        view: The job.
        key: The seam.
        to: Its new place from 0.
    """
    if view.plan is None or view.shown is None or key not in view.order:
        return ""
    effect = evaluate_move(view.plan.work, view.shown.order, key, to, view.way or ONE)
    wrong = f" It breaks a rule: {'; '.join(effect.broken)}." if effect.broken else ""
    return f"{key} at place {effect.to + 1}: {format_price(effect)}.{wrong}"


class SeamRow(Struct, frozen=True):
    """A seam for entry.

    Title, joint sentence or error, form fields, query of its joint ("": by a procedure).
    """

    seam: Seam
    title: str
    words: str
    fields: dict[str, str]
    link: str


def build_seam_rows(job: Job, shop: Shop, units: str) -> list[SeamRow]:
    """Return the seams of a job for entry.

    Args:
        job: The job.
        shop: The shop.
        units: Unit system.
    """
    rows = []
    for seam in job.seams:
        try:
            task = Task(seam, plan_of_seam(seam, shop))
            title, text = task.title.text(units), sentence_text(task.plan.sentence, units)
        except InputError as error:
            title, text = seam.title, error.sentence
        rows.append(
            SeamRow(
                seam,
                title,
                text,
                list_seam_fields(seam, units),
                query_text(seam.joint) if seam.joint is not None else "",
            )
        )
    return rows
