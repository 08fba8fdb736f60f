"""Good orders for many seams: beam search, then local search.

Local search moves seams, groups and pairs while the cost falls, starting from perturbed orders
(iterated local search): textbook methods. Arrays calculate all candidates of a step together.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cached_property
from typing import Any

from .problem import SEEN_EARLY, Problem

MAX_MOVED_SEAMS = 6
# The number of orders in one calculation, smaller for many seams.
_MIN_BATCH, _TOGETHER = 150, 30_000
_SHAKES = (2, 3, 4, 6)


class Arrays:
    """A problem as arrays."""

    def __init__(self, problem: Problem) -> None:
        """Convert a problem to arrays."""
        import numpy as np

        n, parts = problem.n, max(1, problem.part_count)
        self.np, self.problem, self.n = np, problem, n
        self.arc, self.cool = np.array(problem.arc_s), np.array(problem.cool_s)
        self.setup = np.vstack(
            [np.array(problem.setup_s).reshape(n, n), np.array(problem.starts_s).reshape(1, n)]
        )
        self.fill = np.array(problem.fills_s)
        self.fills = bool(self.fill.any())
        # Steps of one seam have the same number.
        self.seam = np.unique(np.array(problem.keys), return_inverse=True)[1].reshape(n)
        self.sections = len(set(problem.keys)) < n
        self.group = np.array(problem.groups) if problem.groups else None
        maximum = max((len(p) for p in problem.parts), default=1) or 1
        # A seam of fewer parts repeats one. Part `parts` is never warm.
        self.parts = np.array(
            [[*p, *[p[0] if p else parts] * (maximum - len(p))] for p in problem.parts],
            dtype=np.intp,
        )
        self.part_count = parts + 1
        self.side = np.array(problem.side)
        self.needs = np.zeros((n, n), dtype=bool)
        for first, other in problem.before:
            self.needs[other, first] = True
        self.pairs = np.array(problem.before, dtype=np.intp).reshape(-1, 2)
        self.classes = [np.array(kind) for kind in problem.classes]
        self.late = SEEN_EARLY * np.array(problem.seen, dtype=float)

    @cached_property
    def moves(self) -> Any:
        """Return every move: start, number of seams (0: exchange with one), destination."""
        n = self.n
        runs = [
            (i, long, to)
            for long in range(1, min(MAX_MOVED_SEAMS, n - 1) + 1)
            for i in range(n - long + 1)
            for to in range(n - long + 1)
            if to != i
        ]
        return self.np.array(
            runs + [(i, 0, k) for i in range(n) for k in range(i + 1, n)], dtype=self.np.intp
        )

    def costs(self, orders: Any) -> Any:
        """Return the costs of orders, s; infinite for a forbidden order.

        Args:
            orders: Orders, an array of (many, n) seams.
        """
        np = self.np
        many = len(orders)
        rows = np.arange(many)
        now, lean, balance = np.zeros(many), np.zeros(many, dtype=int), np.zeros(many)
        ready = np.zeros((many, self.part_count))
        worked = np.zeros((many, self.part_count))
        at = np.full(many, self.n)
        for k in range(self.n):
            j = orders[:, k]
            now = now + self.setup[at, j]
            on = self.parts[j]
            for m in range(on.shape[1]):
                now = np.maximum(now, ready[rows, on[:, m]])
                if self.fills:
                    now = np.maximum(now, worked[rows, on[:, m]] + self.fill[j])
            now = now + self.arc[j]
            for m in range(on.shape[1]):
                ready[rows, on[:, m]] = now + self.cool[j]
                worked[rows, on[:, m]] = now
            lean = lean + self.side[j]
            balance = balance + self.problem.balance_s * np.maximum(0, np.abs(lean) - 1)
            at = j
        total = now + balance
        if len(self.pairs):
            place = np.empty_like(orders)
            np.put_along_axis(
                place, orders, np.broadcast_to(np.arange(self.n), orders.shape), axis=1
            )
            wrong = (place[:, self.pairs[:, 0]] > place[:, self.pairs[:, 1]]).any(axis=1)
            total = np.where(wrong, np.inf, total)
        if self.sections or self.group is not None:
            total = np.where(self._breaks_rules(orders), np.inf, total)
        return total

    def _breaks_rules(self, orders: Any) -> Any:
        """Return whether a step may not follow the one before it (`Problem.is_open`)."""
        np = self.np
        wrong = np.zeros(len(orders), dtype=bool)
        if self.group is not None:
            changes = (self.group[orders[:, 1:]] != self.group[orders[:, :-1]]).sum(axis=1)
            wrong |= changes >= len(np.unique(self.group))
        if not self.sections:
            return wrong
        repeats = self.seam[orders[:, 1:]] == self.seam[orders[:, :-1]]
        for k in range(self.n - 1):
            rows = np.flatnonzero(repeats[:, k] & ~wrong)
            if len(rows):
                done = np.zeros((len(rows), self.n), dtype=bool)
                np.put_along_axis(done, orders[rows, : k + 1], True, axis=1)
                possible = self.list_open(done, orders[rows, k])
                wrong[rows] |= ~possible[np.arange(len(rows)), orders[rows, k + 1]]
        return wrong

    def list_open(self, done: Any, last: Any) -> Any:
        """Return which steps may come next, (many, n).

        Args:
            done: Finished steps, (many, n).
            last: The last step of each, n for none.
        """
        np = self.np
        possible = ~done & ~(self.needs[None] & ~done[:, None, :]).any(axis=2)
        has_last = (last < self.n)[:, None]
        before = np.minimum(last, self.n - 1)
        if self.group is not None:
            same = self.group[None] == self.group[before][:, None]
            unfinished = (same & ~done).any(axis=1)[:, None]
            possible &= ~has_last | same | ~unfinished
        if self.sections:
            same_seam = self.seam[None] == self.seam[before][:, None]
            others = (possible & ~same_seam).any(axis=1)[:, None]
            possible &= ~has_last | ~same_seam | ~others
        return possible


def find_beam_order(
    arrays: Arrays, width: int, lasts: float, go_on: Callable[[], bool] = lambda: True
) -> list[int] | None:
    """Return an order from a beam search, or None if stopped.

    Args:
        arrays: The problem.
        width: Width of the beam.
        lasts: Number of steps for which the lead of one side counts.
        go_on: Returns False to stop.
    """
    np, n = arrays.np, arrays.n
    rng = np.random.default_rng(20261126)
    marks = rng.integers(1, 2**62, size=n, dtype=np.int64)
    done, lean = np.zeros((1, n), dtype=bool), np.zeros(1, dtype=int)
    now, balance, at, mark = np.zeros(1), np.zeros(1), np.full(1, n), np.zeros(1, dtype=np.int64)
    ready = np.zeros((1, arrays.part_count))
    worked = np.zeros((1, arrays.part_count))
    layers: list[Any] = []
    on_part = np.zeros((n, arrays.part_count))
    for j in range(n):
        on_part[j, arrays.parts[j]] = 1
    remaining_s = on_part * (arrays.arc + arrays.cool)[:, None]
    for _ in range(n):
        if not go_on():
            return None
        open_ = arrays.list_open(done, at)
        start = now[:, None] + arrays.setup[at]
        for m in range(arrays.parts.shape[1]):
            start = np.maximum(start, ready[:, arrays.parts[:, m]])
            if arrays.fills:
                start = np.maximum(start, worked[:, arrays.parts[:, m]] + arrays.fill[None])
        end = start + arrays.arc[None]
        after = lean[:, None] + arrays.side[None]
        leaning = balance[:, None] + arrays.problem.balance_s * np.maximum(0, np.abs(after) - 1)
        lead = (
            arrays.problem.balance_s
            * min(n - len(layers) - 1, lasts)
            * np.maximum(0, np.abs(after) - 1)
        )
        score = (
            leaning
            + lead
            + np.maximum(
                end + _estimate_rest(arrays, done),
                _estimate_chains(arrays, done, ready, start, remaining_s),
            )
            + arrays.late * (n - len(layers))
        )
        score = np.where(open_, score, np.inf)
        direction, seam = _select_best(arrays, score, mark, marks, width)
        layers.append((direction, seam))
        done, ready = done[direction].copy(), ready[direction].copy()
        worked = worked[direction].copy()
        rows = np.arange(len(direction))
        done[rows, seam] = True
        now, balance, lean = end[direction, seam], leaning[direction, seam], after[direction, seam]
        for m in range(arrays.parts.shape[1]):
            ready[rows, arrays.parts[seam, m]] = now + arrays.cool[seam]
            worked[rows, arrays.parts[seam, m]] = now
        at, mark = seam, mark[direction] ^ marks[seam]
    return _trace_order(layers, int((now + balance).argmin()))


def _estimate_rest(arrays: Arrays, done: Any) -> Any:
    """Return the minimum cost of the remaining seams after each possible next seam, s, (beam, n).

    It is their arc time, and one change to each other class left.
    """
    np = arrays.np
    left = ~done
    total = (left * arrays.arc).sum(axis=1)[:, None] - arrays.arc[None]
    for kind, cost in zip(arrays.classes, arrays.problem.change_s, strict=True):
        counts = left.astype(float) @ (kind[:, None] == np.arange(kind.max() + 1)[None])
        total = total + cost * ((counts > 0).sum(axis=1)[:, None] - 1)
    return total


def _estimate_chains(arrays: Arrays, done: Any, ready: Any, start: Any, remaining_s: Any) -> Any:
    """Return the earliest finish of the part with the longest waits, s, (beam, n)."""
    np = arrays.np
    rest = (~done).astype(float) @ remaining_s
    chain_s = np.maximum(0.0, ready * (rest > 0) + rest).max(axis=1)[:, None]
    mine = np.zeros_like(start)
    for m in range(arrays.parts.shape[1]):
        mine = np.maximum(mine, rest[:, arrays.parts[:, m]])
    return np.maximum(chain_s, start + mine) - arrays.cool.max()


def _select_best(arrays: Arrays, score: Any, mark: Any, marks: Any, width: int) -> Any:
    """Select the best continuations, one for each state of finished seams and last seam."""
    np = arrays.np
    flat = score.ravel()
    take = min(len(flat), 6 * width)
    near = np.argpartition(flat, take - 1)[:take] if take < len(flat) else np.arange(len(flat))
    near = near[np.isfinite(flat[near])]
    near = near[np.argsort(flat[near], kind="stable")]
    direction, seam = np.divmod(near, score.shape[1])
    state = (mark[direction] ^ marks[seam]) * 1_000_003 + seam
    _, first = np.unique(state, return_index=True)
    first = np.sort(first)[:width]
    return direction[first], seam[first]


def _trace_order(layers: list[Any], end: int) -> list[int]:
    order = []
    for direction, seam in reversed(layers):
        order.append(int(seam[end]))
        end = int(direction[end])
    return order[::-1]


def improve_order(
    arrays: Arrays, order: list[int], go_on: Callable[[], bool], seed: int = 1
) -> Iterator[tuple[float, list[int]]]:
    """Yield improving orders as (cost s, order) until stopped, with the given order first.

    Args:
        arrays: The problem.
        order: The first order.
        go_on: Returns False to stop.
        seed: Seed of the random numbers.
    """
    np = arrays.np
    rng = np.random.default_rng(seed)
    best = np.array(order)
    cost = float(arrays.costs(best[None])[0])
    yield cost, [int(j) for j in best]
    at, unimproved, shake = best, cost, 0
    while go_on():
        at, unimproved = _settle_order(arrays, at, unimproved, go_on, rng)
        if unimproved < cost - 1e-6:
            best, cost, shake = at, unimproved, 0
            yield cost, [int(j) for j in best]
        if not go_on():
            return
        shake += 1
        # Restart from the best order, with more perturbation after each failure.
        at, unimproved = _perturb_order(
            arrays, best, rng, _SHAKES[min(len(_SHAKES) - 1, shake // 8)]
        )


def _settle_order(
    arrays: Arrays, order: Any, cost: float, go_on: Callable[[], bool], rng: Any
) -> tuple[Any, float]:
    """Return an order that no single move improves, or the best one when stopped."""
    while go_on():
        better = False
        for moved in _list_moves(arrays, order, rng, _MIN_BATCH + _TOGETHER // arrays.n):
            costs = arrays.costs(moved)
            k = int(costs.argmin())
            if costs[k] < cost - 1e-6:
                order, cost, better = moved[k], float(costs[k]), True
                break
            if not go_on():
                return order, cost
        if not better:
            break
    return order, cost


def _list_moves(arrays: Arrays, order: Any, rng: Any, together: int) -> Iterator[Any]:
    """Yield the orders one move away, some hundred at a time.

    First complete groups without a set-up change, then shifted runs of seams, then exchanges.
    """
    np = arrays.np
    groups = _group_moves(arrays, order)
    for begin in range(0, len(groups), together):
        yield order[_apply_moves(np, arrays.n, groups[begin : begin + together])]
    picked = rng.permutation(len(arrays.moves))
    for begin in range(0, len(picked), together):
        yield order[_apply_moves(np, arrays.n, arrays.moves[picked[begin : begin + together]])]


def _group_moves(arrays: Arrays, order: Any) -> Any:
    """Return moves of one or two groups to the start of another."""
    np, n = arrays.np, arrays.n
    begins = [0, *(k for k in range(1, n) if arrays.setup[order[k - 1], order[k]] > 0), n]
    moves = []
    for a, i in enumerate(begins[:-1]):
        for end in begins[a + 1 : a + 3]:
            long = end - i
            moves += [(i, long, to if to < i else to - long) for to in begins if to < i or to > end]
    return np.array(moves, dtype=np.intp).reshape(-1, 3)


def _apply_moves(np: Any, n: int, moves: Any) -> Any:
    """Return the original place of each seam after moves, (many, n).

    A move is a row of start, count (0: exchange) and destination.
    """
    i, long, to = (moves[:, k, None] for k in range(3))
    k = np.arange(n)[None]
    inside = (k >= to) & (k < to + long)
    rest = np.where(k < to, k, k - long)
    positions = np.where(inside, i + k - to, np.where(rest < i, rest, rest + long))
    changed = np.where(k == i, to, np.where(k == to, i, k))
    return np.where(long == 0, changed, positions)


def _perturb_order(arrays: Arrays, order: Any, rng: Any, times: int) -> tuple[Any, float]:
    """Return a possible order with a few randomly shifted runs."""
    np = arrays.np
    for _ in range(200):
        perturbed = order
        for _ in range(times):
            long = int(rng.integers(1, max(2, min(8, arrays.n // 2))))
            i, to = (int(rng.integers(0, arrays.n - long + 1)) for _ in range(2))
            perturbed = perturbed[_apply_moves(np, arrays.n, np.array([[i, long, to]]))[0]]
        cost = float(arrays.costs(perturbed[None])[0])
        if np.isfinite(cost):
            return perturbed, cost
    return order, float(arrays.costs(order[None])[0])
