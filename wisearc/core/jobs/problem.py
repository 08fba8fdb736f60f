"""The order problem as numbers only, for every search."""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from functools import cached_property

from msgspec import Struct

from .order import SIGN, Work

# Among equal orders, visible seams come later: cost for each earlier step, s.
SEEN_EARLY = 1e-7


class Problem(Struct, frozen=True, dict=True):
    """Seams 0 to n−1.

    Keys, arc and cooling time s, classes of settings, torch and clamping with the cost of each
    change s, shared parts by number, side (+1 left, −1 right), precedence pairs, penalty for
    imbalance s, and visible seams.
    """

    keys: tuple[str, ...]
    arc_s: tuple[float, ...]
    cool_s: tuple[float, ...]
    classes: tuple[tuple[int, ...], ...]
    change_s: tuple[float, ...]
    parts: tuple[tuple[int, ...], ...]
    side: tuple[int, ...]
    before: tuple[tuple[int, int], ...]
    balance_s: float
    seen: tuple[bool, ...]

    @property
    def n(self) -> int:
        """Return the number of seams."""
        return len(self.keys)

    @cached_property
    def part_count(self) -> int:
        """Return the number of parts."""
        return 1 + max((p for parts in self.parts for p in parts), default=-1)

    @cached_property
    def setup_s(self) -> tuple[tuple[float, ...], ...]:
        """Return the set-up time between each pair of seams, s."""
        return tuple(tuple(self._change(i, j) for j in range(self.n)) for i in range(self.n))

    def _change(self, i: int, j: int) -> float:
        return sum(
            cost
            for kind, cost in zip(self.classes, self.change_s, strict=True)
            if kind[i] != kind[j]
        )

    @cached_property
    def needs(self) -> tuple[int, ...]:
        """Return the preceding seams of each seam, as bits."""
        needed = [0] * self.n
        for first, other in self.before:
            needed[other] |= 1 << first
        return tuple(needed)

    @cached_property
    def bound_s(self) -> float:
        """Return a lower bound of the cost, s.

        It is all arcs with one change to each further setting, torch and clamping, or the part with
        the longest waits, plus the minimum penalty for unpaired sides.
        """
        return max(self.sequence_bound_s(range(self.n)), self._chain_s()) + self.lean_s[self.n]

    def sequence_bound_s(self, left: Iterable[int], at: int | None = None) -> float:
        """Return a lower bound of the time for some seams, s.

        It is their arc time with a change to each class among them, except the present one.

        Args:
            left: The seams.
            at: The seam before, or None.
        """
        rest = list(left)
        total = sum(self.arc_s[j] for j in rest)
        for kind, cost in zip(self.classes, self.change_s, strict=True):
            others = {kind[j] for j in rest}
            total += cost * (
                len(others)
                - (1 if at is None and others else 0)
                - (1 if at is not None and kind[at] in others else 0)
            )
        return total

    def _chain_s(self) -> float:
        max_s = 0.0
        for part in range(self.part_count):
            on = [j for j in range(self.n) if part in self.parts[j]]
            if on:
                cools = [self.cool_s[j] for j in on]
                max_s = max(max_s, sum(self.arc_s[j] for j in on) + sum(cools) - max(cools))
        return max_s

    @cached_property
    def lean_s(self) -> tuple[float, ...]:
        """Return the minimum future penalty for a lead of −n to n on the left, s.

        The remaining seams determine the final lead.
        """
        end = sum(self.side)

        def sum_to(lean: int) -> int:
            return abs(lean) * (abs(lean) - 1) // 2

        def way(lean: int) -> int:
            near, longer = abs(lean), abs(end)
            if lean * end < 0:
                return sum_to(near - 1) + sum_to(longer)
            return (
                sum_to(longer) - sum_to(near)
                if longer >= near
                else sum_to(near - 1) - sum_to(longer - 1)
            )

        return tuple(self.balance_s * max(0, way(lean)) for lean in range(-self.n, self.n + 1))

    def cost_s(self, order: Iterable[int]) -> float:
        """Return the cost of an order, s."""
        now, lean, balance, at = 0.0, 0, 0.0, -1
        ready = [0.0] * self.part_count
        for j in order:
            if at >= 0:
                now += self.setup_s[at][j]
            for part in self.parts[j]:
                now = max(now, ready[part])
            now += self.arc_s[j]
            for part in self.parts[j]:
                ready[part] = now + self.cool_s[j]
            lean += self.side[j]
            balance += self.balance_s * max(0, abs(lean) - 1)
            at = j
        return now + balance


def build_problem(work: Work, pieces: int = 1) -> Problem:
    """Build the order problem of a job.

    Over several pieces, parts cool while others are welded. The remaining wait is shorter by at
    least that time.

    Args:
        work: The job with its plans.
        pieces: Number of pieces. With more than one, each seam is welded on all of them before the
            next.
    """
    job = work.job
    keys = [seam.key for seam in job.seams]
    tasks = [work.tasks[key] for key in keys]
    other, at = pieces - 1, {key: i for i, key in enumerate(keys)}
    shortest = min((t.arc_s for t in tasks), default=0.0) + job.times.piece_s
    kinds: tuple[list[Hashable], ...] = (
        [t.dial for t in tasks],
        [t.torch for t in tasks],
        [t.clamped for t in tasks],
    )
    numbers = {
        part: i for i, part in enumerate(dict.fromkeys(p for s in job.seams for p in s.joins))
    }
    return Problem(
        keys=tuple(keys),
        arc_s=tuple(pieces * t.arc_s + other * job.times.piece_s for t in tasks),
        cool_s=tuple(max(0.0, t.cool_s - other * shortest) for t in tasks),
        classes=tuple(_number_classes(kind) for kind in kinds),
        change_s=(job.times.dial_s, job.times.torch_s, job.times.clamp_s),
        parts=tuple(tuple(numbers[p] for p in s.joins) for s in job.seams),
        side=tuple(SIGN[s.side] for s in job.seams),
        before=tuple((at[b.one], at[b.other]) for b in work.before),
        balance_s=pieces * job.balance_s,
        seen=tuple(s.seen for s in job.seams),
    )


def _number_classes(kind: list[Hashable]) -> tuple[int, ...]:
    known = {item: i for i, item in enumerate(dict.fromkeys(kind))}
    return tuple(known[item] for item in kind)
