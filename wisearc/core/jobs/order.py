"""The cost and the validity of an order of seams: the only place that calculates them.

The cost in seconds is the arc time of all seams, each change of settings, torch and clamping, waits
for the interpass temperature of shared parts, and a penalty for imbalance between the sides. The
first seam has no set-up cost.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct
from msgspec.structs import asdict

from ..reasons import Estimate, Practice, Reason
from .bench_state import SetupChange, Task, list_setup_changes
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

    @property
    def cost_s(self) -> float:
        """Return the total cost, s."""
        return float(sum(asdict(self).values()))

    @property
    def wall_s(self) -> float:
        """Return the clock time, s: the cost without the penalty for imbalance."""
        return self.cost_s - self.balance_s


class Step(Struct, frozen=True):
    """A run of the work.

    Seam, piece (from 1), start and end s, changes before it, wait s with its start, and the seam
    that causes it.
    """

    key: str
    piece: int
    start_s: float
    end_s: float
    touched: tuple[SetupChange, ...]
    changed_s: Mapping[str, float]
    wait_s: float
    for_key: str = ""


class Schedule(Struct, frozen=True):
    """An order with its times."""

    order: tuple[str, ...]
    items: Items
    steps: tuple[Step, ...]


class Work(Struct, frozen=True):
    """A job with the plan of each seam."""

    job: Job
    tasks: Mapping[str, Task]

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
    keys = [seam.key for seam in work.job.seams]
    for key in dict.fromkeys(order):
        if key not in keys:
            violations.append(f"{key} is not a seam of this job")
        elif order.count(key) > 1:
            violations.append(f"{key} appears twice")
    violations += [f"{key} is missing" for key in keys if key not in order]
    if violations:
        return violations
    at = {key: i for i, key in enumerate(order)}
    return [pair.words for pair in work.before if at[pair.one] > at[pair.other]]


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
    if by_seam:
        runs = [(key, piece) for key in order for piece in range(1, pieces + 1)]
    else:
        runs = [(key, piece) for piece in range(1, pieces + 1) for key in order]
    times, balance = work.job.times, work.job.balance_s
    spent = dict.fromkeys(
        ("arc_s", "dial_s", "torch_s", "clamp_s", "wait_s", "balance_s", "piece_s"), 0.0
    )
    ready: dict[tuple[str, int], tuple[float, str]] = {}
    ahead: dict[int, int] = {}
    steps, now = [], 0.0
    before: tuple[str, int] | None = None
    costs = {"dial": times.dial_s, "torch": times.torch_s, "clamp": times.clamp_s}
    for key, piece in runs:
        task = work.tasks[key]
        changes = list_setup_changes(work.tasks[before[0]] if before else None, task)
        changed = {t.what: costs[t.what] for t in changes} if before else {}
        if before and before[1] != piece:
            changed["piece"] = times.piece_s
        for name, seconds in changed.items():
            spent[f"{name}_s"] += seconds
        now += sum(changed.values())
        free, of = max(
            (ready.get((part, piece), (0.0, "")) for part in task.seam.joins), default=(0.0, "")
        )
        wait = max(0.0, free - now)
        start, end = now + wait, now + wait + task.arc_s
        for part in task.seam.joins:
            ready[part, piece] = (
                max(end + task.cool_s, ready.get((part, piece), (0.0, ""))[0]),
                key,
            )
        ahead[piece] = ahead.get(piece, 0) + SIGN[task.seam.side]
        spent["wait_s"] += wait
        spent["arc_s"] += task.arc_s
        spent["balance_s"] += balance * max(0, abs(ahead[piece]) - 1)
        steps.append(Step(key, piece, start, end, changes, changed, wait, of if wait else ""))
        before, now = (key, piece), end
    return Schedule(tuple(order), Items(**spent), tuple(steps))
