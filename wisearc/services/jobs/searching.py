"""Searches for the orders of jobs: the first answer at once, then a process of its own that betters
it while one looks, and can be stopped.

What was found is kept by the figures it was found for, in memory: whoever opens the same job sees
the same.
"""

from __future__ import annotations

import hashlib
import json
import subprocess
import threading
import time
from collections import OrderedDict
from contextlib import suppress

from msgspec import Struct, to_builtins

from ...core.jobs.job_plan import Best, find_best_orders
from ...core.jobs.order import Work
from ...core.jobs.problem import Problem, build_problem
from ...core.jobs.search import PROVED_TO
from ..background import Background
from .job_plans import find_batch_order, limit_seconds

# how long the first answer may take besides its first order, how long a search goes on, and how
# many at once
FIRST_S, SEARCH_S, AT_ONCE = 0.12, 20.0, 2
MAX_CACHED = 64


class Search(Struct):
    """A search: its best order so far, how it stands ("proved", "waits", "runs", "stopped",
    "done"), since when it runs, how often it was bettered, whether it was begun at all.
    """

    problem: Problem
    best: Best
    state: str
    began: float = 0.0
    bettered: int = 0
    begun: bool = False
    process: subprocess.Popen[str] | None = None

    @property
    def cost_s(self) -> float:
        """What its best order costs, s."""
        return self.problem.cost_s(self.problem.keys.index(key) for key in self.best.order)

    @property
    def going(self) -> bool:
        """Whether it goes on."""
        return self.state in ("runs", "waits")

    @property
    def share(self) -> float:
        """How much of its time is over, 0 to 1."""
        return (
            1.0
            if not self.going
            else (
                0.0
                if self.state == "waits"
                else min(1.0, (time.monotonic() - self.began) / SEARCH_S)
            )
        )


class Searches:
    """The searches of this process, two at once; the others wait for their turn."""

    def __init__(self, background: Background) -> None:
        self._background = background
        self._guard = threading.Lock()
        self._turn = threading.BoundedSemaphore(AT_ONCE)
        self._kept: OrderedDict[str, Search] = OrderedDict()
        self._over_all: OrderedDict[str, tuple[str, ...] | None] = OrderedDict()

    def ask(self, work: Work) -> Search:
        """The search of a job's order as it stands; its first answer where there is none yet."""
        problem = build_problem(work)
        key = _build_key(problem)
        with self._guard:
            found = self._kept.get(key)
        if found is None:
            best = _find_first(work)
            found = Search(problem, best, "proved" if best.proved else "stopped")
        with self._guard:
            # another may have asked meanwhile
            found = self._kept.setdefault(key, found)
            self._kept.move_to_end(key)
            while len(self._kept) > MAX_CACHED:
                _, gone = self._kept.popitem(last=False)
                _end_search(gone)
        return found

    def over_all(self, work: Work) -> tuple[str, ...] | None:
        """The order in which each seam is welded over all pieces of a job, quickly found; None for
        one piece.
        """
        if work.job.quantity < 2:
            return None
        key = f"{_build_key(build_problem(work))}/{work.job.quantity}/{work.job.times.piece_s}"
        with self._guard:
            if key in self._over_all:
                self._over_all.move_to_end(key)
                return self._over_all[key]
        found = find_batch_order(work)
        with self._guard:
            self._over_all[key] = found
            while len(self._over_all) > MAX_CACHED:
                self._over_all.popitem(last=False)
        return found

    def begin_once(self, search: Search) -> bool:
        """Search on where that was never asked for. Returns whether it was begun now."""
        if search.begun or search.state == "proved":
            return False
        self.begin(search)
        return True

    def begin(self, search: Search) -> None:
        """Search on in a process of its own."""
        with self._guard:
            if search.going or search.state == "proved":
                return
            search.state, search.begun = "waits", True
        self._background.start(lambda: self._run(search))

    def _run(self, search: Search) -> None:
        try:
            self._search(search)
        except BaseException:
            # Keep the best order so far.
            with self._guard:
                if search.going:
                    search.state = "stopped"
                _end_search(search)
            raise

    def _search(self, search: Search) -> None:
        with self._turn:
            with self._guard:
                if search.state != "waits":
                    return
                process = self._background.command(
                    "find-order", "--seconds", f"{SEARCH_S:g}", told=True
                )
                search.process, search.began, search.state = process, time.monotonic(), "runs"
            # stopped at once, it reads nothing
            with suppress(BrokenPipeError), process:
                if process.stdin is not None:
                    process.stdin.write(json.dumps(to_builtins(search.problem)))
                    process.stdin.close()
                for line in process.stdout or ():
                    with self._guard:
                        _receive_line(search, process, line)
            with self._guard:
                # another may have begun since this one was stopped, and this one may have been slow
                # to end
                if search.process is process:
                    search.process = None
                    if search.state == "runs" and process.returncode:
                        search.state = "stopped"
                    elif search.state == "runs":
                        search.state = "proved" if search.best.proved else "done"

    def stop(self, search: Search) -> None:
        """Stop a search; what it has stands."""
        with self._guard:
            if search.going:
                search.state = "stopped"
            _end_search(search)

    def close(self) -> None:
        """End them all."""
        with self._guard:
            for search in self._kept.values():
                if search.going:
                    search.state = "stopped"
                _end_search(search)


def _build_key(problem: Problem) -> str:
    return hashlib.sha256(json.dumps(to_builtins(problem)).encode()).hexdigest()


def _find_first(work: Work) -> Best:
    """The first answer: proved where that is quick, else what is found in a moment."""
    go_on = limit_seconds(FIRST_S)
    orders = find_best_orders(work, go_on)
    best = next(orders)
    for better in orders:
        best = better
        if len(work.tasks) > PROVED_TO and not go_on():
            break
    return best


def _receive_line(search: Search, process: subprocess.Popen[str], line: str) -> None:
    """What a search says: taken where it is better than what there is."""
    said = json.loads(line)
    order = tuple(search.problem.keys[j] for j in said["order"])
    cheaper = said["cost_s"] < search.cost_s - 1e-6
    if (
        search.process is process
        and search.state == "runs"
        and (cheaper or (said["proved"] and not search.best.proved))
    ):
        search.best = Best(order, said["bound_s"], said["proved"])
        search.bettered += cheaper


def _end_search(search: Search) -> None:
    if search.process is not None and search.process.poll() is None:
        search.process.terminate()
