"""The search for an order: a first answer immediately, then better ones, proven if possible."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator

from msgspec import Struct

from .beam import Arrays, find_beam_order, improve_order
from .exact import find_exact_order
from .problem import Problem

# Up to the first number of seams, the best order is always proven. Up to the second it is tried.
PROVED_TO, TRIED_TO = 9, 16
# Beams: their width, and the number of steps for which the lead of one side counts.
FIRST = (12, 2.4)
BEAMS = ((50, 2.4), (50, 8.0), (50, 0.0), (250, 2.4))
# With more seams the last beams cost more time than they gain.
WIDE_TO = 60
_SAME = 1e-6


class SearchResult(Struct, frozen=True):
    """The present result.

    The best order (seams by number), its cost, the lower bound, and whether it is proven best.
    """

    order: tuple[int, ...]
    cost_s: float
    bound_s: float
    proved: bool


def search(problem: Problem, go_on: Callable[[], bool]) -> Iterator[SearchResult]:
    """Yield improving orders until one is proven or the search is stopped.

    The first always comes, and jobs of up to nine seams are always proven.

    Args:
        problem: The problem.
        go_on: Called often; returns False to stop.
    """
    if not problem.n:
        yield SearchResult((), 0.0, 0.0, True)
        return
    if problem.n <= PROVED_TO:
        near = _find_nearest_order(problem)
        yield _build_proved(
            problem,
            find_exact_order(problem, problem.cost_s(near), lambda: True, sys.maxsize) or near,
        )
        return
    arrays, bound = Arrays(problem), problem.bound_s
    first = find_beam_order(arrays, *FIRST)
    best = _build_result(problem, first or [], bound)
    yield best
    if best.proved:
        return
    for width, lasts in BEAMS[: -1 if problem.n > WIDE_TO else None]:
        wider = find_beam_order(arrays, width, lasts, go_on)
        if wider is not None:
            better = _build_result(problem, wider, bound)
            if better.cost_s < best.cost_s - _SAME:
                best = better
                yield best
    if best.proved:
        return
    if problem.n <= TRIED_TO:
        proved = find_exact_order(problem, best.cost_s, go_on)
        if proved is not None:
            yield _build_proved(problem, proved)
            return
    for cost, order in improve_order(arrays, list(best.order), go_on):
        if cost < best.cost_s - _SAME:
            best = _build_result(problem, order, bound)
            yield best
            if best.proved:
                return


def _find_nearest_order(problem: Problem) -> list[int]:
    """Return an order in which each next seam is the cheapest possible one."""
    order: list[int] = []
    while len(order) < problem.n:
        done = sum(1 << j for j in order)
        last = order[-1] if order else -1
        open_ = [
            j for j in range(problem.n) if not done >> j & 1 and problem.is_open(done, last, j)
        ]
        order.append(min(open_, key=lambda j: problem.cost_s([*order, j])))
    return order


def _build_result(problem: Problem, order: list[int], bound: float) -> SearchResult:
    cost = problem.cost_s(order)
    return SearchResult(tuple(order), cost, min(bound, cost), cost <= bound + _SAME)


def _build_proved(problem: Problem, order: list[int]) -> SearchResult:
    cost = problem.cost_s(order)
    return SearchResult(tuple(order), cost, cost, True)
