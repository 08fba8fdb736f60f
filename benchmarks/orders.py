"""Speed and quality of the order search, its memory, and its effect on pages.

Run by hand:

    python benchmarks/orders.py
"""

from __future__ import annotations

import resource
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from tests.jobs import generated_job
from wisearc.core.jobs.job_data import make_job
from wisearc.core.jobs.job_plan import build_work, explain_position
from wisearc.core.jobs.problem import build_problem
from wisearc.core.jobs.search import search
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.jobs.job_plans import limit_seconds, plan_seams

# Number of seams, time, and the targets for the first and all answers, s.
CASES = ((9, 60.0, 0.3, 0.3), (30, 0.8, 0.3, 1.0), (100, 1.5, 0.3, 2.0))


def orders() -> None:
    """Measure first and last answer, and the distance of the last from a longer search.

    That search has eight times the time.
    """
    for n, seconds, first_wanted, wanted in CASES:
        firsts, wholes, off = [], [], []
        for seed in range(5):
            made = make_job(generated_job(n, seed))
            work = build_work(made, plan_seams(made, ASSUMED))
            problem, began = build_problem(work), time.perf_counter()
            go_on, cost, first = limit_seconds(seconds), 0.0, 0.0
            for found in search(problem, go_on):
                first = first or time.perf_counter() - began
                cost = found.cost_s
            wholes.append(time.perf_counter() - began)
            firsts.append(first)
            if n > 9 and seed < 2:
                *_, long = search(problem, limit_seconds(8 * seconds))
                off.append(cost / long.cost_s - 1)
        ratio = (
            f"; {100 * max(off):.1f} % dearer at most than after {8 * seconds:g} s (wanted under 5)"
            if off
            else "; proved"
        )
        print(
            f"{n} seams: first {max(firsts):.2f} s (wanted under {first_wanted}), all"
            f" {max(wholes):.2f} s (wanted under {wanted}){ratio}"
        )
    order = [problem.keys[j] for j in found.order]
    began = time.perf_counter()
    explain_position(work, order, order[50])
    print(
        f"why here, of 100: {1000 * (time.perf_counter() - began):.0f} ms; memory"
        f" {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB (wanted under 100)"
    )


def pages() -> None:
    """Measure a page without a search, and with four requested."""
    from wisearc.services.jobs import jobs
    from wisearc.services.maintenance.opening import open_data

    with tempfile.TemporaryDirectory() as folder:
        store = open_data(Path(folder))
        numbers = [jobs.begin(f"Job {seed}", data=generated_job(60, seed)).id for seed in range(4)]
        store.close()
        server = subprocess.Popen(
            [
                sys.executable,
                "-m",
                "wisearc",
                "serve",
                "--data",
                folder,
                "--port",
                "8199",
                "--no-browser",
            ],
            stdout=subprocess.DEVNULL,
        )
        try:
            quiet = _answers(numbers[:0])
            busy = _answers(numbers)
            print(
                f"Plan's page: {quiet:.0f} ms, with four searches {busy:.0f} ms, {busy / quiet:.1f}"
                " times (wanted under 3)"
            )
        finally:
            server.terminate()
            server.wait()


def _answers(numbers: list[int]) -> float:
    for _ in range(100):
        try:
            urllib.request.urlopen("http://127.0.0.1:8199/").read()
            break
        except OSError:
            time.sleep(0.1)
    asked = [
        threading.Thread(
            target=lambda n=n: urllib.request.urlopen(f"http://127.0.0.1:8199/jobs/{n}").read()
        )
        for n in numbers
    ]
    for one in asked:
        one.start()
    for one in asked:
        one.join()
    taken = []
    for i in range(30):
        began = time.perf_counter()
        urllib.request.urlopen(f"http://127.0.0.1:8199/?joint=tee&length={200 + i}+mm").read()
        taken.append(1000 * (time.perf_counter() - began))
    return statistics.median(taken)


if __name__ == "__main__":
    orders()
    pages()
