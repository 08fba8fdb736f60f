"""The order of the tacks of an assembly that is tacked before it is welded.

Common practice: tack all seams that one position of the work shows, check square, pull true, turn
the work over, tack the next face. Only the settings, the turns and the filling of purges depend on
the order, so few orders need a comparison.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import permutations

from .bench_state import Task
from .exact import find_exact_ends
from .order import TackOrders, Work
from .problem import Problem
from .search import PROVED_TO

# A face with its first and its last setting.
_Chain = tuple[tuple[str, int, int], ...]
_State = tuple[int, int, int]
# With more faces the order of the faces is that of the job.
MAX_FACES = 7
_SAME = 1e-6


def find_tack_orders(work: Work) -> TackOrders:
    """Return the best order of the tacks for each last seam.

    The cost includes the checks for square and the turns of the work, and every wait for a purge.

    Args:
        work: The job with its plans.
    """
    tasks = [work.tasks[seam.key] for seam in work.job.seams]
    tasks = [task for task in tasks if task.plan.tacks.count]
    if not tasks:
        return TackOrders({}, True, 0.0)
    problem = _build_problem(work, tasks)
    # The check of the last face follows all tacks.
    last_check_s = work.job.times.check_s
    if problem.n <= PROVED_TO:
        ends = find_exact_ends(problem, float("inf"))
        by_last = {
            problem.keys[last]: (cost + last_check_s, tuple(problem.keys[j] for j in order))
            for last, (cost, order) in ends.items()
        }
        bound = min(cost for cost, _ in by_last.values())
        return TackOrders(by_last, True, bound)
    by_last = {}
    for order in _list_class_orders(work, tasks):
        cost = problem.cost_s([problem.keys.index(task.seam.key) for task in order])
        end = order[-1].seam.key
        if end not in by_last or cost + last_check_s < by_last[end][0]:
            by_last[end] = (cost + last_check_s, tuple(task.seam.key for task in order))
    bound = problem.bound_s + last_check_s
    best = min(cost for cost, _ in by_last.values())
    has_waits = any(problem.fills_s)
    faces = len(set(problem.groups))
    return TackOrders(
        by_last, not has_waits and faces <= MAX_FACES, best if not has_waits else bound
    )


def _build_problem(work: Work, tasks: Sequence[Task]) -> Problem:
    times = work.job.times
    faces = list(dict.fromkeys(task.clamped.face for task in tasks))
    dials = list(dict.fromkeys(task.tack_dial.current_a for task in tasks))
    parts = list(dict.fromkeys(part for task in tasks for part in task.seam.joins))
    face = tuple(faces.index(task.clamped.face) for task in tasks)
    return Problem(
        keys=tuple(task.seam.key for task in tasks),
        arc_s=tuple(task.tack_s for task in tasks),
        cool_s=(0.0,) * len(tasks),
        classes=(tuple(dials.index(task.tack_dial.current_a) for task in tasks), face),
        # A face is checked before the work is turned.
        change_s=(times.dial_s, times.clamp_s + times.check_s),
        parts=tuple(tuple(parts.index(part) for part in task.seam.joins) for task in tasks),
        side=(0,) * len(tasks),
        before=(),
        balance_s=0.0,
        seen=(False,) * len(tasks),
        fill_s=tuple(task.fill_s for task in tasks),
        groups=face,
    )


def _list_class_orders(work: Work, tasks: Sequence[Task]) -> list[list[Task]]:
    """Return the orders with the fewest changes of the setting, one for each possible last seam.

    Dynamic programming over the faces: seams of a face with one setting come together, and a face
    starts with the last setting of the face before it, if it has that setting.
    """
    faces: dict[str, dict[int, list[Task]]] = {}
    for task in tasks:
        by_dial = faces.setdefault(task.clamped.face, {})
        by_dial.setdefault(task.tack_dial.current_a, []).append(task)
    for by_dial in faces.values():
        for same in by_dial.values():
            # A purge is filled while seams without one are tacked.
            same.sort(key=lambda task: task.fill_s)
    names = list(faces)
    # A state has the faces done, the last face and the last setting. Its value has the changes of
    # the setting and the chain.
    ways: dict[_State, tuple[int, _Chain]] = {(0, -1, -1): (0, ())}
    for depth in range(len(names)):
        onward: dict[_State, tuple[int, _Chain]] = {}
        for (done, _, last), (changes, chain) in ways.items():
            for i, name in enumerate(names):
                if done >> i & 1 or (len(names) > MAX_FACES and i != depth):
                    continue
                for first, end in _list_ends(list(faces[name])):
                    more = len(faces[name]) - 1 + (bool(chain) and first != last)
                    state = (done | 1 << i, i, end)
                    new = (changes + more, (*chain, (name, first, end)))
                    onward[state] = min(new, onward.get(state, new))
        ways = onward
    orders = []
    for _, chain in ways.values():
        last_name, _, last_dial = chain[-1]
        base = [
            task
            for name, first, end in chain
            for dial in _arrange(list(faces[name]), first, end)
            for task in faces[name][dial]
        ]
        for task in faces[last_name][last_dial]:
            orders.append([*(other for other in base if other is not task), task])
    return orders


def _list_ends(dials: list[int]) -> list[tuple[int, int]]:
    """Return the possible first and last settings of a face."""
    if len(dials) == 1:
        return [(dials[0], dials[0])]
    return list(permutations(dials, 2))


def _arrange(dials: list[int], first: int, last: int) -> list[int]:
    """Return the settings of a face with the first and the last one in their places."""
    middle = [dial for dial in dials if dial not in (first, last)]
    return [first, *middle, *([last] if last != first else [])]
