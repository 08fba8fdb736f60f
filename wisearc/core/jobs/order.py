"""What an order of seams costs, and whether it can be: the one place that counts it.

Seconds. Arc of all seams, dial, torch and clamp wherever they are not the one before's, waits till
the parts a seam shares with one before it are under the interpass limit, and what running ahead on
one side costs. The first seam pays nothing for dial, torch or clamp.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct
from msgspec.structs import asdict

from ..reasons import Estimate, Practice, Reason
from .bench_state import SetupChange, Task, list_setup_changes
from .job import Before, Job, list_precedence


def order_reasons() -> tuple[Reason, ...]:
    """What an order's times are reckoned by, each with its source."""
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
    """What an order costs, s, item by item."""

    arc_s: float = 0.0
    dial_s: float = 0.0
    torch_s: float = 0.0
    clamp_s: float = 0.0
    wait_s: float = 0.0
    balance_s: float = 0.0
    piece_s: float = 0.0

    @property
    def cost_s(self) -> float:
        """All of it."""
        return float(sum(asdict(self).values()))

    @property
    def wall_s(self) -> float:
        """What passes on the clock: all but what running ahead on one side counts for."""
        return self.cost_s - self.balance_s


class Step(Struct, frozen=True):
    """A run of the work: which seam, of which piece (from 1), when it starts and ends, s; what was
    touched before it; how long was waited for it, from when; and for which seam.
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
    """An order over time."""

    order: tuple[str, ...]
    items: Items
    steps: tuple[Step, ...]


class Work(Struct, frozen=True):
    """A job with the plan of each seam: what every order is reckoned of."""

    job: Job
    tasks: Mapping[str, Task]

    @property
    def before(self) -> tuple[Before, ...]:
        """What must come before what."""
        return list_precedence(self.job)


def find_violations(work: Work, order: Sequence[str]) -> list[str]:
    """Why an order cannot be, a sentence each: seams left out or named twice, what must come before
    and does not. [] where it can.
    """
    found = []
    keys = [seam.key for seam in work.job.seams]
    for key in dict.fromkeys(order):
        if key not in keys:
            found.append(f"{key} is not a seam of this job")
        elif order.count(key) > 1:
            found.append(f"{key} appears twice")
    found += [f"{key} is missing" for key in keys if key not in order]
    if found:
        return found
    at = {key: i for i, key in enumerate(order)}
    return [pair.words for pair in work.before if at[pair.one] > at[pair.other]]


def schedule_order(
    work: Work, order: Sequence[str], pieces: int = 1, by_seam: bool = False
) -> Schedule:
    """An order over time. Parameters: order, every seam's key once; pieces, of how many; by_seam,
    each seam over all pieces before the next.
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
        what = list_setup_changes(work.tasks[before[0]] if before else None, task)
        changed = {t.what: costs[t.what] for t in what} if before else {}
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
        steps.append(Step(key, piece, start, end, what, changed, wait, of if wait else ""))
        before, now = (key, piece), end
    return Schedule(tuple(order), Items(**spent), tuple(steps))
