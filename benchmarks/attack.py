"""Attacks on the application, with printed results.

Run by hand; docs/evidence.md has results:

    .venv/bin/python benchmarks/attack.py [nonsense N | files N | kills N | writers N | beside |
        replan N | load MINUTES | large N | full-disk | acts N | logs ROWS | stalled |
        broken-off N] …
"""

from __future__ import annotations

import collections
import json
import logging
import multiprocessing
import re
import resource
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
VIEWS = ("", "/print", "/drawings", ".json")


def _prepared(folder: Path) -> tuple[Any, list[dict[str, Any]], str]:
    """Return an application with three records, their files, and a CSRF token."""
    from tests.samples import COPE, CORNER, TEE, run, typed
    from wisearc.core.joint.data import make_joint
    from wisearc.core.shop.shop import ASSUMED
    from wisearc.services.procedures import book, procedures
    from wisearc.services.runs import runs
    from wisearc.store import database, queries
    from wisearc.store.database import db
    from wisearc.web import create_app

    # The attack tests the input, not the disk.
    database.PRAGMAS["synchronous"] = "off"
    app = create_app(folder)
    for joint in (CORNER, COPE, TEE):
        procedures.keep_draft(make_joint(joint), ASSUMED)
    runs.record_run("P-0001", "A", typed(run(notes="Ä")))
    files = [json.loads(book.procedure_text(queries.get_revision(f"P-000{i}"))) for i in (1, 2, 3)]
    db.close()
    client = app.test_client()
    page = client.get("/procedures/P-0002/A").get_data(as_text=True)
    return client, files, re.search(r'name="csrf_token" value="([^"]+)"', page)[1]


def _nonsense(job: tuple[int, int, bool]) -> dict[str, Any]:
    from benchmarks.fuzz import Fuzz

    seed, many, files_alone = job
    faults: list[str] = []

    class LogCounter(logging.Handler):
        def emit(self, record: logging.LogRecord) -> None:
            faults.append(self.format(record)[-700:])

    answers: collections.Counter[int] = collections.Counter()
    slow, worst, unshown, taken = 0, 0.0, [], 0
    with tempfile.TemporaryDirectory() as folder:
        client, files, token = _prepared(Path(folder))
        client.application.logger.addHandler(LogCounter())
        client.application.logger.propagate = False
        source = Fuzz(seed, files)
        for _ in range(many):
            sent = source.file() if files_alone else source.one()
            client.set_cookie("habit", sent.units)
            form = {"csrf_token": token, **sent.form}
            start = time.monotonic()
            with client.open(
                sent.path,
                method=sent.method,
                data=form if sent.method == "POST" else None,
                headers=sent.headers,
            ) as done:
                took = time.monotonic() - start
                answers[done.status_code] += 1
                slow, worst = slow + (took > 2), max(worst, took)
                if done.status_code >= 500:
                    faults.append(f"{done.status_code} {sent.method} {sent.path[:300]}")
                if sent.path == "/procedures/read" and done.status_code == 303:
                    taken += 1
                    here = re.sub(r"[?#].*", "", done.headers["Location"])
                    for face in VIEWS:
                        with client.get(here + face) as response:
                            if response.status_code != 200:
                                unshown.append(f"{here}{face} {response.status_code}")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000
    return {
        "answers": answers,
        "slow": slow,
        "worst": worst,
        "faults": faults,
        "unshown": unshown,
        "taken": taken,
        "peak": peak,
    }


def nonsense(many: int, files_alone: bool = False) -> None:
    """Send wrong requests, in two processes, a thousand to a library.

    Args:
        many: Number of requests.
        files_alone: Whether to send files only.
    """
    each = 1000
    jobs = [(1000 + i, each, files_alone) for i in range(max(1, many // each))]
    answers: collections.Counter[int] = collections.Counter()
    slow, worst, faults, unshown, taken, peak = 0, 0.0, [], [], 0, 0.0
    start = time.monotonic()
    with multiprocessing.get_context("spawn").Pool(2, maxtasksperchild=5) as pool:
        for results in pool.imap_unordered(_nonsense, jobs):
            answers += results["answers"]
            slow, worst, taken, peak = (
                slow + results["slow"],
                max(worst, results["worst"]),
                taken + results["taken"],
                max(peak, results["peak"]),
            )
            faults += results["faults"]
            unshown += results["unshown"]
    name = "procedure files made wrong" if files_alone else "requests made of wrong pieces"
    print(
        f"{sum(answers.values())} {name} in {time.monotonic() - start:.0f} s: server errors"
        f" {sum(n for code, n in answers.items() if code >= 500)}, tracebacks {len(faults)}, over 2"
        f" s {slow} (worst {worst:.2f} s), most memory {peak:.0f} MB; {taken} files taken in, faces"
        f" not shown {len(unshown)}; answers {dict(sorted(answers.items()))}"
    )
    for line in dict.fromkeys(faults[:10] + unshown[:10]):
        print("  ", line)


if __name__ == "__main__":
    from acts import acts
    from besieged import beside, kills, large, load, replan, writers
    from broken_off import broken_off
    from pressure import full_disk, logs, stalled

    kinds = {
        "nonsense": nonsense,
        "files": lambda n: nonsense(n, True),
        "kills": kills,
        "writers": writers,
        "beside": beside,
        "replan": replan,
        "load": load,
        "large": large,
        "full-disk": full_disk,
        "acts": acts,
        "broken-off": broken_off,
        "logs": logs,
        "stalled": stalled,
    }
    words = sys.argv[1:]
    while words:
        what = words.pop(0)
        kinds[what](int(words.pop(0)) if words and words[0].isdigit() else 0)
