"""An order to be found, as figures alone: what every search works on."""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from functools import cached_property

from msgspec import Struct

from .order import SIGN, Work

# of orders that cost the same, that in which what is seen comes later: s for each step it comes
# earlier
SEEN_EARLY = 1e-7


class Problem(Struct, frozen=True, dict=True):
    """Seams 0 to n−1: their keys; arc and cooling time s; classes of dial, torch and clamp, and
    what a change of each costs s; the parts they share by number; side (+1 left, −1 right); pairs
    that must come in order; what running ahead costs s; which are seen.
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
        """How many seams."""
        return len(self.keys)

    @cached_property
    def part_count(self) -> int:
        """How many parts there are."""
        return 1 + max((p for parts in self.parts for p in parts), default=-1)

    @cached_property
    def setup_s(self) -> tuple[tuple[float, ...], ...]:
        """What is touched to go from one seam to another, s."""
        return tuple(tuple(self._change(i, j) for j in range(self.n)) for i in range(self.n))

    def _change(self, i: int, j: int) -> float:
        return sum(
            cost
            for kind, cost in zip(self.classes, self.change_s, strict=True)
            if kind[i] != kind[j]
        )

    @cached_property
    def needs(self) -> tuple[int, ...]:
        """What must be done before each seam, as bits."""
        found = [0] * self.n
        for one, other in self.before:
            found[other] |= 1 << one
        return tuple(found)

    @cached_property
    def bound_s(self) -> float:
        """What no order can cost less than, s: all arcs and one change to each further dial, torch
        and clamping; or the part that must wait longest between its own seams; and the least that
        sides which do not pair cost.
        """
        return max(self.sequence_bound_s(range(self.n)), self._chain_s()) + self.lean_s[self.n]

    def sequence_bound_s(self, left: Iterable[int], at: int | None = None) -> float:
        """Arcs of some seams, with a change to each class among them but the one that stands.
        Parameters: at, the seam before; None: none.
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
        longest = 0.0
        for part in range(self.part_count):
            on = [j for j in range(self.n) if part in self.parts[j]]
            if on:
                cools = [self.cool_s[j] for j in on]
                longest = max(longest, sum(self.arc_s[j] for j in on) + sum(cools) - max(cools))
        return longest

    @cached_property
    def lean_s(self) -> tuple[float, ...]:
        """What sides still cost at least from being ahead by −n to n on the left, s: the seams left
        lead to where all of them end.
        """
        end = sum(self.side)

        def sum_to(lean: int) -> int:
            return abs(lean) * (abs(lean) - 1) // 2

        def way(lean: int) -> int:
            near, far = abs(lean), abs(end)
            if lean * end < 0:
                return sum_to(near - 1) + sum_to(far)
            return sum_to(far) - sum_to(near) if far >= near else sum_to(near - 1) - sum_to(far - 1)

        return tuple(self.balance_s * max(0, way(lean)) for lean in range(-self.n, self.n + 1))

    def cost_s(self, order: Iterable[int]) -> float:
        """What an order costs, s."""
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
    """The order of a job to be found. Parameters: pieces, more than one: each seam over all of them
    before the next.

    Over several pieces a seam's parts cool while the others are welded: what is left to wait is
    shorter by so much, here by the least that it can be.
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
    known = {one: i for i, one in enumerate(dict.fromkeys(kind))}
    return tuple(known[one] for one in kind)
