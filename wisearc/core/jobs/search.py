"""The search for an order: the first answer at once, then better ones, the best proved where that
can be done.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator

from msgspec import Struct

from .beam import Arrays, find_beam_order, improve_order
from .exact import find_exact_order
from .problem import Problem

# so many seams are always proved; to the second it is tried
PROVED_TO, TRIED_TO = 9, 16
# beams: how many ways each follows, and for how many steps it counts on one side's lead to last
FIRST = (12, 2.4)
BEAMS = ((50, 2.4), (50, 8.0), (50, 0.0), (250, 2.4))
# with more seams the last of them takes longer than it gives
WIDE_TO = 60
_SAME = 1e-6


class Found(Struct, frozen=True):
    """What a search has so far: the best order (seams by number), what it costs, what none can cost
    less than, and whether it is proved best.
    """

    order: tuple[int, ...]
    cost_s: float
    bound_s: float
    proved: bool


def search(problem: Problem, go_on: Callable[[], bool]) -> Iterator[Found]:
    """Ever better orders until one is proved or it is stopped. Parameters: go_on, asked often,
    whether to go on.

    The first comes whatever it says; jobs of up to nine seams are proved whatever it says.
    """
    if not problem.n:
        yield Found((), 0.0, 0.0, True)
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
    best = _build_found(problem, first or [], bound)
    yield best
    if best.proved:
        return
    for width, lasts in BEAMS[: -1 if problem.n > WIDE_TO else None]:
        wider = find_beam_order(arrays, width, lasts, go_on)
        if wider is not None:
            better = _build_found(problem, wider, bound)
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
            best = _build_found(problem, order, bound)
            yield best
            if best.proved:
                return


def _find_nearest_order(problem: Problem) -> list[int]:
    """An order in which each next seam is the cheapest that can come."""
    order: list[int] = []
    while len(order) < problem.n:
        done = sum(1 << j for j in order)
        open_ = [j for j in range(problem.n) if not done >> j & 1 and not problem.needs[j] & ~done]
        order.append(min(open_, key=lambda j: problem.cost_s([*order, j])))
    return order


def _build_found(problem: Problem, order: list[int], bound: float) -> Found:
    cost = problem.cost_s(order)
    return Found(tuple(order), cost, min(bound, cost), cost <= bound + _SAME)


def _build_proved(problem: Problem, order: list[int]) -> Found:
    cost = problem.cost_s(order)
    return Found(tuple(order), cost, cost, True)
