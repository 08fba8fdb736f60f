"""Order searches for jobs.

A first answer immediately, then a separate process that improves it while its page is open, and can
be stopped. Results are saved in memory by the figures of the job, so that all readers of a job see
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

# The maximum time of the first answer beyond its first order, s, of a search, s, and the number of
# simultaneous searches.
FIRST_S, SEARCH_S, AT_ONCE = 0.12, 20.0, 2
MAX_CACHED = 64


class Search(Struct):
    """A search.

    Best order so far, state ("proved", "waits", "runs", "stopped", "done"), start, number of
    improvements, and whether it was started.
    """

    problem: Problem
    best: Best
    state: str
    began: float = 0.0
    improvements: int = 0
    begun: bool = False
    # The time that another order of the tacks can save at most, s, where theirs is not proven.
    tack_gap_s: float = 0.0
    process: subprocess.Popen[str] | None = None

    @property
    def cost_s(self) -> float:
        """Return the cost of the best order, s."""
        return self.problem.cost_s(self.problem.number_steps(self.best.order))

    @property
    def going(self) -> bool:
        """Return whether it is in progress."""
        return self.state in ("runs", "waits")

    @property
    def share(self) -> float:
        """Return the elapsed fraction of its time, 0 to 1."""
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
    """The searches of this process, two at once.

    Others wait.
    """

    def __init__(self, background: Background) -> None:
        """Create an empty set of searches."""
        self._background = background
        self._guard = threading.Lock()
        self._turn = threading.BoundedSemaphore(AT_ONCE)
        self._kept: OrderedDict[str, Search] = OrderedDict()
        self._over_all: OrderedDict[str, tuple[str, ...] | None] = OrderedDict()

    def ask(self, work: Work) -> Search:
        """Return the search of a job, with its first answer."""
        problem = build_problem(work)
        key = _build_key(problem)
        with self._guard:
            search_run = self._kept.get(key)
        if search_run is None:
            best = _find_first(work)
            search_run = Search(problem, best, "proved" if best.proved else "stopped")
            search_run.tack_gap_s = _find_tack_gap_s(work)
        with self._guard:
            # Another request may have created it.
            search_run = self._kept.setdefault(key, search_run)
            self._kept.move_to_end(key)
            while len(self._kept) > MAX_CACHED:
                _, dropped = self._kept.popitem(last=False)
                _end_search(dropped)
        return search_run

    def over_all(self, work: Work) -> tuple[str, ...] | None:
        """Return an order for welding each seam on all pieces; None for one piece.

        It is the result of a short search.
        """
        if work.job.quantity < 2:
            return None
        key = f"{_build_key(build_problem(work))}/{work.job.quantity}/{work.job.times.piece_s}"
        with self._guard:
            if key in self._over_all:
                self._over_all.move_to_end(key)
                return self._over_all[key]
        batch = find_batch_order(work)
        with self._guard:
            self._over_all[key] = batch
            while len(self._over_all) > MAX_CACHED:
                self._over_all.popitem(last=False)
        return batch

    def begin_once(self, search: Search) -> bool:
        """Start a search that was never started, and return whether it was."""
        if search.begun or search.state == "proved":
            return False
        self.begin(search)
        return True

    def begin(self, search: Search) -> None:
        """Start a search in a separate process."""
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
                    "find-order", "--seconds", f"{SEARCH_S:g}", reports_progress=True
                )
                search.process, search.began, search.state = process, time.monotonic(), "runs"
            # After an immediate stop there is no output to read.
            with suppress(BrokenPipeError), process:
                if process.stdin is not None:
                    process.stdin.write(json.dumps(to_builtins(search.problem)))
                    process.stdin.close()
                for line in process.stdout or ():
                    with self._guard:
                        _receive_line(search, process, line)
            with self._guard:
                # A new search may have started before the old process has ended.
                if search.process is process:
                    search.process = None
                    if search.state == "runs" and process.returncode:
                        search.state = "stopped"
                    elif search.state == "runs":
                        search.state = "proved" if search.best.proved else "done"

    def stop(self, search: Search) -> None:
        """Stop a search and keep its result."""
        with self._guard:
            if search.going:
                search.state = "stopped"
            _end_search(search)

    def close(self) -> None:
        """Stop all searches."""
        with self._guard:
            for search in self._kept.values():
                if search.going:
                    search.state = "stopped"
                _end_search(search)


def _build_key(problem: Problem) -> str:
    return hashlib.sha256(json.dumps(to_builtins(problem)).encode()).hexdigest()


def _find_first(work: Work) -> Best:
    """Return the first answer: proven if that is quick, or else from a moment of search."""
    go_on = limit_seconds(FIRST_S)
    orders = find_best_orders(work, go_on)
    best = next(orders)
    for better in orders:
        best = better
        if len(work.tasks) > PROVED_TO and not go_on():
            break
    return best


def _find_tack_gap_s(work: Work) -> float:
    if not work.job.tack_up or work.tack_ends.is_proved:
        return 0.0
    slowest = max(work.find_tack_end(task).start_s for task in work.tasks.values())
    return max(0.0, slowest - work.tack_ends.bound_s)


def _receive_line(search: Search, process: subprocess.Popen[str], line: str) -> None:
    """Process a result line, and keep it if it is better."""
    message = json.loads(line)
    order = tuple(search.problem.keys[j] for j in message["order"])
    cheaper = message["cost_s"] < search.cost_s - 1e-6
    proved = message["proved"] and not search.tack_gap_s
    if (
        search.process is process
        and search.state == "runs"
        and (cheaper or (proved and not search.best.proved))
    ):
        search.best = Best(order, message["bound_s"] - search.tack_gap_s, proved)
        search.improvements += cheaper


def _end_search(search: Search) -> None:
    if search.process is not None and search.process.poll() is None:
        search.process.terminate()
