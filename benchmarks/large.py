"""Pages, searches, filters and saves of a large library: time on the server and memory.

    .venv/bin/python benchmarks/large.py LARGE [SMALL]

LARGE and SMALL are made by benchmarks/large_library.py. Each request is repeated with other words,
and its times are given as median and p95, in ms. A second number is the ratio to SMALL, of this
run and this machine.
"""

from __future__ import annotations

import random
import re
import resource
import sys
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

REPEATS = 60
SAVES = 40


def list_requests(count: int) -> dict[str, Callable[[random.Random], str]]:
    """Return an address for each kind of request."""

    def number(chance: random.Random) -> int:
        return chance.randrange(40, count)

    words = ("tray", "lid", "mast", "316L", "16 ga", "51 x 1.2", "2 in tube", "tube butt", "rim du")
    return {
        "first page": lambda chance: "/",
        "library": lambda chance: f"/procedures/?page={chance.randrange(1, 5)}",
        "library, deep page": lambda chance: f"/procedures/?page={count // 100 - 3}",
        "search": lambda chance: f"/procedures/?q={chance.choice(words)}",
        "search, two letters": lambda chance: f"/procedures/?q={chance.choice('abcdmr')}a",
        "search, number": lambda chance: f"/procedures/?q={number(chance)}",
        "filter metal": lambda chance: f"/procedures/?metal={chance.choice(('316L', '430'))}",
        "filter welder": lambda chance: "/procedures/?welder=A.O.&outcome=good",
        "filter thickness": lambda chance: "/procedures/?from=1.1+mm&to=1.3+mm",
        "filter machine, joint": lambda chance: "/procedures/?machine=bench+200&joint=tube-butt",
        "filter rod, dates": lambda chance: "/procedures/?rod=ER316L&since=2024-01-01",
        "search with filters": lambda chance: "/procedures/?q=tray&metal=316L&status=proved",
        "order by title": lambda chance: "/procedures/?sort=title&metal=316L",
        "order by use": lambda chance: "/procedures/?sort=used",
        "order by runs": lambda chance: "/procedures/?sort=runs&service=dry",
        "CSV of a view": lambda chance: "/procedures/list.csv?q=mast+lid&metal=430",
        "record": lambda chance: f"/procedures/P-{number(chance):04}/A",
        "runs of a record": lambda chance: f"/procedures/P-{number(chance):04}/A/runs",
        "photographs": lambda chance: f"/procedures/P-{number(chance):04}/A/photographs",
        "changes": lambda chance: f"/procedures/P-{number(chance):04}/A/changes",
        "documents": lambda chance: f"/procedures/P-{number(chance):04}/A/documents",
        "printed sheet": lambda chance: f"/procedures/P-{number(chance):04}/A/print",
        "inbox": lambda chance: "/procedures/inbox",
        "find everything": lambda chance: f"/find?q={chance.choice(words)}",
        "inspect": lambda chance: "/inspect/",
        "shop history": lambda chance: "/inspect/statistics",
        "jobs": lambda chance: "/jobs/",
    }


def measure(folder: Path) -> dict[str, tuple[float, float]]:
    """Return median and p95 of each kind of request, ms."""
    import sqlite3
    from contextlib import closing

    from wisearc.web import create_app

    with closing(sqlite3.connect(folder / "wisearc.sqlite3")) as db:
        count = db.execute("SELECT max(number) FROM procedure").fetchone()[0]
    before = time.monotonic()
    app = create_app(folder)
    started_s = time.monotonic() - before
    client, chance, times = app.test_client(), random.Random(3), {}
    page = client.get("/jobs/").get_data(as_text=True)
    token = re.search(r'name="csrf_token" value="([^"]+)"', page)[1]
    for name, build in list_requests(count).items():
        for _ in range(3):
            client.get(build(chance))
        times[name] = [_time(partial(client.get, build(chance))) for _ in range(REPEATS)]
    form = {"csrf_token": token, "when": "2026-03-04", "who": "R.T.", "outcome": "not-good"}
    form |= {"front": "straw", "back": "silver", "set.current_a": "70"}
    link = "joint=butt&a.metal=304L&a.thickness=1.5+mm&length="
    saves = {
        "save a run": lambda i: client.post(
            f"/procedures/P-{4 * chance.randrange(10, count // 4):04}/A/runs",
            data={**form, "once": f"run-{time.time_ns()}"},
        ),
        "save a draft": lambda i: client.post(
            "/procedures/draft",
            data={
                "csrf_token": token,
                "once": f"d-{time.time_ns()}",
                "link": f"{link}{100 + i}+mm",
            },
        ),
    }
    for name, save in saves.items():
        times[name] = [_time(partial(save, i), expected=303) for i in range(SAVES)]
    times["start"] = [started_s * 1000]
    return {name: _summarise(values) for name, values in times.items()}


def _time(act: Callable[[], object], expected: int = 200) -> float:
    begun = time.perf_counter()
    answer = act()
    duration_ms = (time.perf_counter() - begun) * 1000
    if answer.status_code not in (expected, 302):
        raise AssertionError(f"{answer.status_code}: {answer.get_data(as_text=True)[:300]}")
    return duration_ms


def _summarise(values: list[float]) -> tuple[float, float]:
    ordered = sorted(values)
    return ordered[len(ordered) // 2], ordered[min(len(ordered) - 1, int(0.95 * len(ordered)))]


def main() -> None:
    """Print the table."""
    small = measure(Path(sys.argv[2])) if len(sys.argv) > 2 else {}
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    for name, (median, p95) in measure(Path(sys.argv[1])).items():
        ratio = f"{p95 / small[name][1]:6.1f}" if name in small else ""
        mark = " *" if p95 > 30 and name != "start" else ""
        print(f"{name:24}{median:8.1f}{p95:8.1f}{ratio}{mark}")
    after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"memory: {memory:.0f} MB, then {after:.0f} MB")


if __name__ == "__main__":
    main()
