"""The order problem as numbers only, for every search."""

from __future__ import annotations

from collections.abc import Hashable, Iterable, Sequence
from functools import cached_property

from msgspec import Struct

from .job import Seam
from .order import SIGN, Work

# Among equal orders, visible seams come later: cost for each earlier step, s.
SEEN_EARLY = 1e-7


class Problem(Struct, frozen=True, dict=True):
    """Steps 0 to n−1: seams, or sections of seams.

    Seam of each step, arc and cooling time s, classes of settings, torch and clamping with the cost
    of each change s, shared parts by number, side (+1 left, −1 right, at the last section of a
    seam), precedence pairs, penalty for imbalance s, visible seams. `start_s`: set-up time of each
    step as the first one, () for none. `fill_s`: filling time of its purge, () for none. `groups`:
    a group whose steps come together, () for none.
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
    start_s: tuple[float, ...] = ()
    fill_s: tuple[float, ...] = ()
    groups: tuple[int, ...] = ()

    @property
    def n(self) -> int:
        """Return the number of steps."""
        return len(self.keys)

    @cached_property
    def starts_s(self) -> tuple[float, ...]:
        """Return the set-up time of each step as the first one, s."""
        return self.start_s or (0.0,) * self.n

    @cached_property
    def fills_s(self) -> tuple[float, ...]:
        """Return the filling time of the purge of each step, s."""
        return self.fill_s or (0.0,) * self.n

    @cached_property
    def has_rules(self) -> bool:
        """Return whether the last step limits the next one: sections of a seam, or groups."""
        return bool(self.groups) or len(set(self.keys)) < self.n

    def is_open(self, done: int, last: int, j: int) -> bool:
        """Return whether a step may come next.

        Its predecessors are done. A group is completed before the next. Two sections of a
        seam have another step between them, where there is one.

        Args:
            done: Finished steps, as bits.
            last: The last step, −1 for none.
            j: The step.
        """
        if self.needs[j] & ~done:
            return False
        if last < 0 or not self.has_rules:
            return True
        if self.groups and self.groups[j] != self.groups[last]:
            return not self._group_bits[self.groups[last]] & ~done
        if self.keys[j] != self.keys[last]:
            return True
        return not any(
            self.keys[k] != self.keys[last] and not done >> k & 1 and not self.needs[k] & ~done
            for k in range(self.n)
        )

    @cached_property
    def _group_bits(self) -> tuple[int, ...]:
        bits = [0] * (1 + max(self.groups, default=-1))
        for j, group in enumerate(self.groups):
            bits[group] |= 1 << j
        return tuple(bits)

    @cached_property
    def first_s(self) -> float:
        """Return the earliest start of the first step, s."""
        possible = [j for j in range(self.n) if not self.needs[j]]
        return min((max(self.starts_s[j], self.fills_s[j]) for j in possible), default=0.0)

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
        shortest = max(self.sequence_bound_s(range(self.n)), self._chain_s())
        return self.first_s + shortest + self.lean_s[self.n]

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

    def number_steps(self, order: Iterable[str]) -> list[int]:
        """Return the steps of an order of seams: its sections in rising order."""
        left: dict[str, list[int]] = {}
        for j, key in enumerate(self.keys):
            left.setdefault(key, []).append(j)
        return [left[key].pop(0) for key in order]

    def cost_s(self, order: Iterable[int]) -> float:
        """Return the cost of an order, s."""
        now, lean, balance, at = 0.0, 0, 0.0, -1
        ready = [0.0] * self.part_count
        worked = [0.0] * self.part_count
        for j in order:
            now += self.setup_s[at][j] if at >= 0 else self.starts_s[j]
            for part in self.parts[j]:
                now = max(now, ready[part], worked[part] + self.fills_s[j])
            now += self.arc_s[j]
            for part in self.parts[j]:
                ready[part], worked[part] = now + self.cool_s[j], now
            lean += self.side[j]
            balance += self.balance_s * max(0, abs(lean) - 1)
            at = j
        return now + balance


def build_problem(work: Work, pieces: int = 1) -> Problem:
    """Build the order problem of the welds of a job. `tack_up.py` has that of its tacks.

    Over several pieces, parts cool while others are welded. The remaining wait is shorter by at
    least that time.

    Args:
        work: The job with its plans.
        pieces: Number of pieces. With more than one, each seam is welded on all of them before the
            next.
    """
    job = work.job
    runs = [(seam, section) for seam in job.seams for section in range(1, seam.pieces + 1)]
    tasks = [work.tasks[seam.key] for seam, _ in runs]
    other = pieces - 1
    arcs = [task.arc_s / seam.pieces for task, (seam, _) in zip(tasks, runs, strict=True)]
    shortest = min(arcs, default=0.0) + job.times.piece_s
    kinds: tuple[list[Hashable], ...] = (
        [t.dial for t in tasks],
        [t.torch for t in tasks],
        [t.clamped for t in tasks],
    )
    numbers = {
        part: i for i, part in enumerate(dict.fromkeys(p for s in job.seams for p in s.joins))
    }
    return Problem(
        keys=tuple(seam.key for seam, _ in runs),
        arc_s=tuple(pieces * arc_s + other * job.times.piece_s for arc_s in arcs),
        cool_s=tuple(max(0.0, t.cool_s - other * shortest) for t in tasks),
        classes=tuple(_number_classes(kind) for kind in kinds),
        change_s=(job.times.dial_s, job.times.torch_s, job.times.clamp_s),
        parts=tuple(tuple(numbers[p] for p in s.joins) for s, _ in runs),
        # A seam counts for its side when its last section is welded.
        side=tuple(SIGN[s.side] if section == s.pieces else 0 for s, section in runs),
        before=_list_pairs(work, runs),
        balance_s=pieces * job.balance_s,
        seen=tuple(s.seen for s, _ in runs),
        start_s=tuple(work.find_tack_end(t).start_s for t in tasks) if job.tack_up else (),
        # Tacking has filled the purges.
        fill_s=()
        if job.tack_up
        else tuple(
            max(0.0, t.fill_s - other * shortest) if section == 1 else 0.0
            for t, (_, section) in zip(tasks, runs, strict=True)
        ),
    )


def _list_pairs(work: Work, runs: Sequence[tuple[Seam, int]]) -> tuple[tuple[int, int], ...]:
    """Return the precedences between steps: of the seams, and of the sections of a seam."""
    first: dict[str, int] = {}
    last: dict[str, int] = {}
    for i, (seam, _) in enumerate(runs):
        first.setdefault(seam.key, i)
        last[seam.key] = i
    pairs = [(i, i + 1) for i, (seam, section) in enumerate(runs) if section < seam.pieces]
    for pair in work.before:
        if pair.why == "first":
            pairs.append((first[pair.one], first[pair.other]))
        elif pair.why == "last":
            pairs.append((last[pair.one], last[pair.other]))
        else:
            pairs.append((last[pair.one], first[pair.other]))
    return tuple(pairs)


def _number_classes(kind: list[Hashable]) -> tuple[int, ...]:
    known = {item: i for i, item in enumerate(dict.fromkeys(kind))}
    return tuple(known[item] for item in kind)
