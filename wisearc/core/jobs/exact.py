"""The best order, proved: every order that could still be better is followed, joined where what is
done and what was done last are the same.

Dynamic programming over what is done (Held and Karp 1962), with several ways kept to a state where
none is better in time, balance and how far every part has cooled; a way is dropped once no end of
it can beat the best known.
"""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

from .problem import SEEN_EARLY, Problem

_SAME = 1e-9


class _Way(Struct):
    """A way to a state: cost s (clock and balance), clock s, when each part is cool s, the seam
    done last and the way before.
    """

    cost: float
    now: float
    ready: tuple[float, ...]
    last: int
    before: _Way | None


def find_exact_order(
    problem: Problem, best_s: float, go_on: Callable[[], bool], most: int = 400_000
) -> list[int] | None:
    """The cheapest order, proved. Parameters: best_s, what a known order costs; go_on, asked now
    and then; most, ways kept at once.

    Returns the seams in order, or None where it was stopped or grew too large. An order as dear as
    best_s is found too.
    """
    searched = _Search(problem, best_s + SEEN_EARLY * (problem.n + 1) ** 2)
    layer: dict[tuple[int, int], list[_Way]] = {
        (0, -1): [_Way(0.0, 0.0, (0.0,) * problem.part_count, -1, None)]
    }
    for depth in range(problem.n):
        onward: dict[tuple[int, int], list[_Way]] = {}
        kept = 0
        for i, ((done, _), ways) in enumerate(layer.items()):
            if i % 64 == 0 and not go_on():
                return None
            for way in ways:
                kept += searched.follow(done, way, onward, depth)
        if kept > most:
            return None
        layer = onward
    ends = [way for ways in layer.values() for way in ways]
    if not ends:
        return None
    end: _Way | None = min(ends, key=lambda way: way.cost)
    order = []
    while end is not None and end.last >= 0:
        order.append(end.last)
        end = end.before
    return order[::-1]


class _Search:
    """What every step of the search asks of the problem, reckoned once."""

    def __init__(self, problem: Problem, best_s: float) -> None:
        self.p, self.best_s = problem, best_s
        self.all = (1 << problem.n) - 1
        self._bounds: dict[tuple[int, int], float] = {}
        self._left: dict[int, tuple[list[int], list[tuple[int, float]], int]] = {}

    def follow(
        self, done: int, way: _Way, onward: dict[tuple[int, int], list[_Way]], depth: int
    ) -> int:
        """Put every seam that can come next behind a way. Returns how many ways were added."""
        p, added = self.p, 0
        balance_before = way.cost - way.now
        lean = self._of(done)[2]
        for j in self._of(done)[0]:
            if p.needs[j] & ~done:
                continue
            start = way.now + (p.setup_s[way.last][j] if way.last >= 0 else 0.0)
            for part in p.parts[j]:
                start = max(start, way.ready[part])
            now = start + p.arc_s[j]
            balance = (
                balance_before
                + p.balance_s * max(0, abs(lean + p.side[j]) - 1)
                + (SEEN_EARLY * (p.n - depth) if p.seen[j] else 0.0)
            )
            after = done | 1 << j
            ready = list(way.ready)
            for part in p.parts[j]:
                ready[part] = now + p.cool_s[j]
            lean_s = p.lean_s[p.n + lean + p.side[j]]
            if now + balance + lean_s + self._to_come(after, j, now, ready) > self.best_s:
                continue
            added += _keep(
                onward.setdefault((after, j), []),
                _Way(now + balance, now, tuple(ready), j, way),
                [part for part, _ in self._of(after)[1]],
            )
        return added

    def _to_come(self, done: int, at: int, now: float, ready: list[float]) -> float:
        """What cannot be spared after a way, s."""
        key = (done, at)
        if key not in self._bounds:
            self._bounds[key] = self.p.sequence_bound_s(self._of(done)[0], at)
        bound = self._bounds[key]
        for part, chain in self._of(done)[1]:
            bound = max(bound, ready[part] - now + chain)
        return bound

    def _of(self, done: int) -> tuple[list[int], list[tuple[int, float]], int]:
        """Of what is done: the seams left, the parts still to be welded with how long they take at
        least s, how far one side is ahead.
        """
        if done not in self._left:
            p = self.p
            left = [j for j in range(p.n) if not done >> j & 1]
            chains = []
            for part in range(p.part_count):
                on = [j for j in left if part in p.parts[j]]
                if on:
                    cools = [p.cool_s[j] for j in on]
                    chains.append((part, sum(p.arc_s[j] for j in on) + sum(cools) - max(cools)))
            self._left[done] = left, chains, sum(p.side[j] for j in range(p.n) if done >> j & 1)
        return self._left[done]


def _keep(ways: list[_Way], new: _Way, parts: list[int]) -> int:
    """Keep a way to a state unless another is as good in all; drop those it is as good as. Returns
    how many more there are.
    """
    before = len(ways)
    for way in ways:
        if _is_as_good(way, new, parts):
            return 0
    ways[:] = [way for way in ways if not _is_as_good(new, way, parts)]
    ways.append(new)
    return len(ways) - before


def _is_as_good(one: _Way, other: _Way, parts: list[int]) -> bool:
    """Whether whatever follows one way costs no more after the other: by so much as its parts are
    warmer it is ahead.
    """
    behind = 0.0
    for part in parts:
        behind = max(behind, one.ready[part] - one.now - max(0.0, other.ready[part] - other.now))
    return one.cost + behind <= other.cost + _SAME
