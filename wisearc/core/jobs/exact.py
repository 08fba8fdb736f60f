"""The proven best order.

All orders that can still be better are followed and merged at equal states: the finished seams and
the last one. Dynamic programming (Held and Karp 1962) with several paths for each state, where none
is better in time, balance and cooling of every part. A path is dropped when no continuation can
beat the best known order.
"""

from __future__ import annotations

import sys
from collections.abc import Callable

from msgspec import Struct

from .problem import SEEN_EARLY, Problem

_SAME = 1e-9


class _Way(Struct):
    """A path to a state.

    Cost s (clock and balance), clock s, time at which each part is cool s, time of the last work on
    each part s, last step, previous path.
    """

    cost: float
    now: float
    ready: tuple[float, ...]
    worked: tuple[float, ...]
    last: int
    before: _Way | None


def find_exact_order(
    problem: Problem, best_s: float, go_on: Callable[[], bool], maximum: int = 400_000
) -> list[int] | None:
    """Find the cheapest order by a complete search, or None if stopped or too large.

    Args:
        problem: The problem.
        best_s: Cost of a known order, s. An equal order counts too.
        go_on: Called at intervals; returns False to stop.
        maximum: Maximum number of paths.

    Returns:
        The seams in order.
    """
    ends = _find_ends(problem, best_s, go_on, maximum)
    return _trace(min(ends, key=lambda path: path.cost)) if ends else None


def find_exact_ends(problem: Problem, best_s: float) -> dict[int, tuple[float, list[int]]]:
    """Return the cheapest order for each last step, with its cost s, by a complete search.

    Args:
        problem: The problem.
        best_s: Orders that cost more are left out, s.
    """
    best: dict[int, _Way] = {}
    for path in _find_ends(problem, best_s, lambda: True, sys.maxsize) or []:
        if path.last not in best or path.cost < best[path.last].cost:
            best[path.last] = path
    return {last: (path.cost, _trace(path)) for last, path in best.items()}


def _find_ends(
    problem: Problem, best_s: float, go_on: Callable[[], bool], maximum: int
) -> list[_Way] | None:
    """Return the paths to the end, or None if stopped or too large."""
    searched = _Search(problem, best_s + SEEN_EARLY * (problem.n + 1) ** 2)
    cold = (0.0,) * problem.part_count
    layer: dict[tuple[int, int], list[_Way]] = {(0, -1): [_Way(0.0, 0.0, cold, cold, -1, None)]}
    for depth in range(problem.n):
        onward: dict[tuple[int, int], list[_Way]] = {}
        kept = 0
        for i, ((done, _), ways) in enumerate(layer.items()):
            if i % 64 == 0 and not go_on():
                return None
            for path in ways:
                kept += searched.follow(done, path, onward, depth)
        if kept > maximum:
            return None
        layer = onward
    return [path for ways in layer.values() for path in ways]


def _trace(end: _Way | None) -> list[int]:
    """Return the order of a path."""
    order = []
    while end is not None and end.last >= 0:
        order.append(end.last)
        end = end.before
    return order[::-1]


class _Search:
    """Data that every step of the search uses."""

    def __init__(self, problem: Problem, best_s: float) -> None:
        self.p, self.best_s = problem, best_s
        self.all = (1 << problem.n) - 1
        self._bounds: dict[tuple[int, int], float] = {}
        self._left: dict[int, tuple[list[int], list[tuple[int, float]], int]] = {}
        self._fills: dict[int, list[tuple[int, float]]] = {}

    def follow(
        self, done: int, path: _Way, onward: dict[tuple[int, int], list[_Way]], depth: int
    ) -> int:
        """Extend a path by every possible next seam, and return the number of new paths.

        Args:
            done: Finished seams, as bits.
            path: The path.
            onward: New paths by state.
            depth: Number of finished seams.
        """
        p, added = self.p, 0
        balance_before = path.cost - path.now
        lean = self._of(done)[2]
        for j in self._of(done)[0]:
            if not p.is_open(done, path.last, j):
                continue
            setup_s = p.setup_s[path.last][j] if path.last >= 0 else p.starts_s[j]
            start = path.now + setup_s
            for part in p.parts[j]:
                start = max(start, path.ready[part], path.worked[part] + p.fills_s[j])
            now = start + p.arc_s[j]
            balance = (
                balance_before
                + p.balance_s * max(0, abs(lean + p.side[j]) - 1)
                + (SEEN_EARLY * (p.n - depth) if p.seen[j] else 0.0)
            )
            after = done | 1 << j
            ready, worked = list(path.ready), list(path.worked)
            for part in p.parts[j]:
                ready[part], worked[part] = now + p.cool_s[j], now
            lean_s = p.lean_s[p.n + lean + p.side[j]]
            if now + balance + lean_s + self._remaining_s(after, j, now, ready) > self.best_s:
                continue
            added += _keep(
                onward.setdefault((after, j), []),
                _Way(now + balance, now, tuple(ready), tuple(worked), j, path),
                [part for part, _ in self._of(after)[1]],
                self._fills_left(after),
            )
        return added

    def _remaining_s(self, done: int, at: int, now: float, ready: list[float]) -> float:
        """Return the unavoidable remaining time after a path, s."""
        key = (done, at)
        if key not in self._bounds:
            self._bounds[key] = self.p.sequence_bound_s(self._of(done)[0], at)
        bound = self._bounds[key]
        for part, chain in self._of(done)[1]:
            bound = max(bound, ready[part] - now + chain)
        return bound

    def _fills_left(self, done: int) -> list[tuple[int, float]]:
        """Return the longest filling time left on each part, s."""
        if not any(self.p.fills_s):
            return []
        if done not in self._fills:
            fill_s: dict[int, float] = {}
            for j in self._of(done)[0]:
                for part in self.p.parts[j] if self.p.fills_s[j] else ():
                    fill_s[part] = max(fill_s.get(part, 0.0), self.p.fills_s[j])
            self._fills[done] = list(fill_s.items())
        return self._fills[done]

    def _of(self, done: int) -> tuple[list[int], list[tuple[int, float]], int]:
        """Return data of a set of finished seams.

        The data are the seams left, the parts with their minimum welding time, s, and the lead of
        one side.
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


def _keep(ways: list[_Way], new: _Way, parts: list[int], fills: list[tuple[int, float]]) -> int:
    """Keep a path unless another of the state dominates it, and drop paths that it dominates.

    Return the change of their number.
    """
    before = len(ways)
    for path in ways:
        if _is_as_good(path, new, parts, fills):
            return 0
    ways[:] = [path for path in ways if not _is_as_good(new, path, parts, fills)]
    ways.append(new)
    return len(ways) - before


def _is_as_good(
    kept_path: _Way, other: _Way, parts: list[int], fills: list[tuple[int, float]]
) -> bool:
    """Return whether any continuation costs no more after the other path.

    Warmer parts, and parts with later work, are compensated by a lower cost.
    """
    behind = 0.0
    for part in parts:
        behind = max(
            behind, kept_path.ready[part] - kept_path.now - max(0.0, other.ready[part] - other.now)
        )
    for part, fill_s in fills:
        left = max(0.0, kept_path.worked[part] + fill_s - kept_path.now)
        behind = max(behind, left - max(0.0, other.worked[part] + fill_s - other.now))
    return kept_path.cost + behind <= other.cost + _SAME
