"""The cost and the validity of an order of seams: the only place that calculates them.

The cost in seconds is the arc time of all seams, each change of settings, torch and clamping, waits
for the interpass temperature of shared parts and for the filling of purges, and a penalty for
imbalance between the sides. The first seam has no set-up cost. If the assembly is tacked first, its
tacks, its turns and its checks for square come before all welds.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from functools import cached_property

from msgspec import Struct
from msgspec.structs import asdict, replace

from ..reasons import Estimate, Practice, Reason
from .bench_state import (
    SetupChange,
    Task,
    list_changes_after_tacks,
    list_setup_changes,
    list_tack_changes,
)
from .job import Before, Job, list_precedence


def order_reasons() -> tuple[Reason, ...]:
    """Return the reasons for the times of an order, each with its source."""
    return (
        Estimate(
            "interpass-wait",
            (
                "A seam waits until the parts that it shares with an earlier seam are below "
                "the interpass limit."
            ),
        ),
        Estimate(
            "job-times",
            (
                "The entered times for settings, torch, clamping, another piece and lead on "
                "one side count."
            ),
        ),
        Estimate(
            "purge-filling",
            "A purge is filled before its seam. Work on other parts can use this time.",
        ),
        Practice(
            "Seams with the same settings go together. Sides balance about the middle. "
            "One seam cools while you weld the next. Hidden seams come first."
        ),
    )


SIGN = {"left": 1, "middle": 0, "right": -1}


class Items(Struct, frozen=True):
    """The cost of an order by item, s."""

    arc_s: float = 0.0
    dial_s: float = 0.0
    torch_s: float = 0.0
    clamp_s: float = 0.0
    wait_s: float = 0.0
    balance_s: float = 0.0
    piece_s: float = 0.0
    tack_s: float = 0.0
    check_s: float = 0.0

    @property
    def cost_s(self) -> float:
        """Return the total cost, s."""
        return float(sum(asdict(self).values()))

    @property
    def wall_s(self) -> float:
        """Return the clock time, s: the cost without the penalty for imbalance."""
        return self.cost_s - self.balance_s


TACK, CHECK, WELD, SECTION = "tack", "check", "weld", "piece"
# The kinds of step that weld a seam.
WELDS = (WELD, SECTION)


class Step(Struct, frozen=True):
    """A run of the work.

    Seam, piece (from 1), start and end s, changes before it, wait s with its start, and the seam
    that causes it. `kind`: tacks of a seam, a check for square after them, a weld, or one of the
    sections of a weld. `section`: its number, from 1. `fills`: the wait is for its own purge.
    """

    key: str
    piece: int
    start_s: float
    end_s: float
    touched: tuple[SetupChange, ...]
    changed_s: Mapping[str, float]
    wait_s: float
    for_key: str = ""
    kind: str = WELD
    section: int = 1
    fills: bool = False

    @property
    def is_weld(self) -> bool:
        """Return whether it welds a seam or a section of it."""
        return self.kind in WELDS


class Schedule(Struct, frozen=True):
    """An order with its times."""

    order: tuple[str, ...]
    items: Items
    steps: tuple[Step, ...]

    @property
    def welds(self) -> tuple[Step, ...]:
        """Return the steps that weld."""
        return tuple(step for step in self.steps if step.is_weld)


class TackEnd(Struct, frozen=True):
    """The tacks before a weld: their order, and the time until the weld with its set-up, s."""

    order: tuple[str, ...]
    start_s: float


class TackOrders(Struct, frozen=True):
    """The best orders of the tacks of an assembly by their last seam.

    Cost s with the checks, and order. `is_proved`: no order costs less. `bound_s`: the least cost.
    """

    by_last: Mapping[str, tuple[float, tuple[str, ...]]]
    is_proved: bool
    bound_s: float


class Work(Struct, frozen=True, dict=True):
    """A job with the plan of each seam."""

    job: Job
    tasks: Mapping[str, Task]

    @cached_property
    def tack_ends(self) -> TackOrders:
        """Return the best orders of the tacks by their last seam."""
        from .tack_up import find_tack_orders

        return find_tack_orders(self)

    def find_tack_end(self, first: Task) -> TackEnd:
        """Return the best tacks before the first weld.

        Args:
            first: The first weld.
        """
        times = self.job.times
        costs = {"dial": times.dial_s, "torch": times.torch_s, "clamp": times.clamp_s}
        ends = [
            TackEnd(
                order,
                cost_s
                + sum(
                    costs[change.what]
                    for change in list_changes_after_tacks(self.tasks[order[-1]], first)
                ),
            )
            for cost_s, order in self.tack_ends.by_last.values()
        ]
        return min(ends, key=lambda end: (end.start_s, end.order), default=TackEnd((), 0.0))

    @property
    def before(self) -> tuple[Before, ...]:
        """Return the precedences."""
        return list_precedence(self.job)


def find_violations(work: Work, order: Sequence[str]) -> list[str]:
    """Return the broken rules of an order as sentences: missing or repeated seams, and precedence.

    The list is empty for a valid order.

    Args:
        work: The job with its plans.
        order: The order.
    """
    violations = []
    wanted = {seam.key: seam.pieces for seam in work.job.seams}
    for key, count in Counter(order).items():
        if key not in wanted:
            violations.append(f"{key} is not a seam of this job")
        elif count > wanted[key]:
            times = "twice" if wanted[key] == 1 else f"more than {wanted[key]} times"
            violations.append(f"{key} appears {times}")
        elif count < wanted[key]:
            violations.append(f"{key} must appear {wanted[key]} times, once for each section")
    violations += [f"{key} is missing" for key in wanted if key not in order]
    if violations:
        return violations
    first = {key: order.index(key) for key in wanted}
    last = {key: len(order) - 1 - order[::-1].index(key) for key in wanted}
    violations = [
        pair.words
        for pair in work.before
        if (last if pair.why in ("after", "hides", "last") else first)[pair.one]
        > (last if pair.why == "last" else first)[pair.other]
    ]
    return violations + _find_repeated_sections(work, order)


def _find_repeated_sections(work: Work, order: Sequence[str]) -> list[str]:
    """Return the seams with two consecutive sections, where another step could come between."""
    from .problem import build_problem

    if len(set(order)) == len(order):
        return []
    problem = build_problem(work)
    done, last, violations = 0, -1, list[str]()
    for key, j in zip(order, problem.number_steps(order), strict=True):
        if last >= 0 and problem.keys[last] == key and not problem.is_open(done, last, j):
            violations.append(
                f"two sections of {key} follow each other. Put another step between them"
            )
        done, last = done | 1 << j, j
    return list(dict.fromkeys(violations))


def schedule_order(
    work: Work, order: Sequence[str], pieces: int = 1, by_seam: bool = False
) -> Schedule:
    """Calculate the times of an order.

    Args:
        work: The job with its plans.
        order: Every seam once.
        pieces: Number of pieces.
        by_seam: Whether each seam is welded on all pieces before the next.
    """
    acts = _list_acts(work, order, pieces, by_seam)
    clock = _Clock(work)
    steps = [clock.run(act) for act in acts]
    return Schedule(tuple(order), Items(**clock.spent), tuple(steps))


class _Act(Struct, frozen=True):
    """Something to do: kind, seam, piece, section, and number of sections."""

    kind: str
    key: str
    piece: int
    section: int = 1
    sections: int = 1


def _list_acts(work: Work, order: Sequence[str], pieces: int, by_seam: bool) -> list[_Act]:
    """Return what is done in an order, with the tacks before the welds."""
    sections = {seam.key: seam.pieces for seam in work.job.seams}
    count: Counter[str] = Counter()
    welds = []
    for key in order:
        count[key] += 1
        total = sections.get(key, 1)
        welds.append(_Act(WELD if total == 1 else SECTION, key, 1, count[key], total))
    tacks = _list_tack_acts(work, order[0]) if work.job.tack_up and order else []
    numbers = range(1, pieces + 1)
    if by_seam:
        return [
            *(replace(act, piece=piece) for piece in numbers for act in tacks),
            *(replace(act, piece=piece) for act in welds for piece in numbers),
        ]
    return [replace(act, piece=piece) for piece in numbers for act in (*tacks, *welds)]


def _list_tack_acts(work: Work, first: str) -> list[_Act]:
    """Return the tacks before the first weld, with a check after each face."""
    order = work.find_tack_end(work.tasks[first]).order
    acts = []
    for i, key in enumerate(order):
        acts.append(_Act(TACK, key, 1))
        following = order[i + 1 : i + 2]
        face = work.tasks[key].clamped.face
        if not following or work.tasks[following[0]].clamped.face != face:
            acts.append(_Act(CHECK, key, 1))
    return acts


class _Clock:
    """The clock of a schedule: times spent by item, and the state of set-up and parts."""

    def __init__(self, work: Work) -> None:
        self.work, self.now = work, 0.0
        self.spent = dict.fromkeys(Items.__struct_fields__, 0.0)
        self._before: _Act | None = None
        # Time at which a part of a piece is cool, with the seam that heated it; time of the last
        # work on it; lead of the left side of a piece; seams of a piece with a filled purge.
        self._ready: dict[tuple[str, int], tuple[float, str]] = {}
        self._worked: dict[tuple[str, int], float] = {}
        self._ahead: dict[int, int] = {}
        self._filled: set[tuple[str, int]] = set()
        times = work.job.times
        self._costs = {
            "dial": times.dial_s,
            "tack-dial": times.dial_s,
            "torch": times.torch_s,
            "clamp": times.clamp_s,
        }

    def run(self, act: _Act) -> Step:
        """Do something, and return its step."""
        if act.kind == CHECK:
            start, self.now = self.now, self.now + self.work.job.times.check_s
            self.spent["check_s"] += self.now - start
            return Step(act.key, act.piece, start, self.now, (), {}, 0.0, kind=CHECK)
        task = self.work.tasks[act.key]
        changes = self._list_changes(act, task)
        changed = self._charge(act, changes)
        self.now += sum(changed.values())
        free, for_key, fills = self._find_free(act, task)
        wait = max(0.0, free - self.now)
        start = self.now + wait
        end = start + (task.tack_s if act.kind == TACK else task.arc_s / act.sections)
        self.spent["wait_s"] += wait
        self.spent["tack_s" if act.kind == TACK else "arc_s"] += end - start
        self._finish(act, task, end)
        return Step(
            act.key,
            act.piece,
            start,
            end,
            changes,
            changed,
            wait,
            for_key if wait else "",
            act.kind,
            act.section,
            bool(wait) and fills,
        )

    def _list_changes(self, act: _Act, task: Task) -> tuple[SetupChange, ...]:
        before = self._before
        if before is None:
            return () if act.kind == TACK else list_setup_changes(None, task)
        last = self.work.tasks[before.key]
        if act.kind == TACK:
            return list_tack_changes(last, before.kind == TACK, task)
        if before.kind == TACK:
            return list_changes_after_tacks(last, task)
        return list_setup_changes(last, task)

    def _charge(self, act: _Act, changes: Sequence[SetupChange]) -> dict[str, float]:
        if self._before is None:
            return {}
        changed = {change.what: self._costs[change.what] for change in changes}
        if self._before.piece != act.piece:
            changed["piece"] = self.work.job.times.piece_s
        for name, seconds in changed.items():
            self.spent[f"{name.removeprefix('tack-')}_s"] += seconds
        return changed

    def _find_free(self, act: _Act, task: Task) -> tuple[float, str, bool]:
        """Return when a step may start, the seam that delays it, and whether its purge does."""
        parts = [(part, act.piece) for part in task.seam.joins]
        free, for_key, fills = 0.0, "", False
        if act.kind != TACK:
            free, for_key = max((self._ready.get(p, (0.0, "")) for p in parts), default=(0.0, ""))
        if task.fill_s and (act.key, act.piece) not in self._filled:
            filled = max(self._worked.get(p, 0.0) for p in parts) + task.fill_s
            if filled > free:
                free, for_key, fills = filled, act.key, True
        return free, for_key, fills

    def _finish(self, act: _Act, task: Task, end: float) -> None:
        parts = [(part, act.piece) for part in task.seam.joins]
        self._filled.add((act.key, act.piece))
        for part in parts:
            self._worked[part] = end
            if act.kind != TACK:
                before = self._ready.get(part, (0.0, ""))[0]
                self._ready[part] = (max(end + task.cool_s, before), act.key)
        if act.kind != TACK and act.section == act.sections:
            self._ahead[act.piece] = self._ahead.get(act.piece, 0) + SIGN[task.seam.side]
        if act.kind != TACK:
            lead = abs(self._ahead.get(act.piece, 0))
            self.spent["balance_s"] += self.work.job.balance_s * max(0, lead - 1)
        self._before, self.now = act, end
