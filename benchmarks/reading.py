"""The time of a diagnosis, and of a shop history among 100,000 runs.

Each is printed in ms and relative to one plan of the same run, because the speed of the machine
varies. Run by hand:

    .venv/bin/python benchmarks/reading.py [--runs 100000]
"""

from __future__ import annotations

import argparse
import random
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from tests import samples
from tests.samples import typed
from wisearc.core.diagnosis.diagnosis import diagnose_run
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.diagnosis import history, statistics
from wisearc.services.procedures import procedures
from wisearc.store.database import open_transaction
from wisearc.store.models import Learnt, Revision, RunRow
from wisearc.store.opening import Store


def timed(what: Callable[[], object], times: int = 15) -> float:
    """Return the median of several times, ms."""
    found = []
    for _ in range(times):
        began = time.perf_counter()
        what()
        found.append(1000 * (time.perf_counter() - began))
    return median(found)


def readings() -> None:
    """Measure a diagnosis of each joint type, of a run with two flaws."""
    for name, joint in samples.EVERY.items():
        plan = make_plan(make_joint(joint), ASSUMED)
        one = timed(lambda joint=joint: make_plan(make_joint(joint), ASSUMED))  # type: ignore[misc]
        run = samples.run(joint, good=False, faults=["grey", "pores"], front={"colour": "grey"})
        took = timed(lambda run=run, plan=plan: diagnose_run(typed(run), plan, ASSUMED))  # type: ignore[misc]
        print(f"{name:16} plan {one:5.1f} ms, reading {took:5.1f} ms, {took / one:4.1f} plans")


def records(runs: int) -> None:
    """Measure shop histories among many runs, from the index."""
    rng = random.Random(4)
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        draft = procedures.keep_draft(make_joint(samples.CORNER), ASSUMED)
        families = [
            (f, m)
            for f in ("edge", "fillet", "in-line", "cope")
            for m in ("austenitic", "ferritic", "austenitic+carbon")
        ]
        with open_transaction():
            for first in range(0, runs, 2000):
                many = range(first + 1, min(first + 2000, runs) + 1)
                RunRow.insert_many(
                    [
                        {
                            "id": i,
                            "revision": draft.id,
                            "made_on": "2026-01-01",
                            "record": {},
                            "good": True,
                            "kept_at": "2026-01-01T00:00:00Z",
                        }
                        for i in many
                    ]
                ).execute()
                rows = []
                for i in many:
                    family, metals = rng.choice(families)
                    rows.append(
                        {
                            "run": i,
                            "revision": draft.id,
                            "procedure": draft.procedure.id,
                            "made_on": "2026-01-01",
                            "machine": rng.choice("abcde"),
                            "hand": rng.choice(("RT", "KS", "MO")),
                            "family": family,
                            "metals": metals,
                            "good": 1,
                            "weight": 1.0,
                            "ratio": rng.gauss(0.05, 0.06),
                            "pace": 0.0,
                            "held": 0.0,
                            "faults": [],
                            "cause": "",
                            "change": "",
                            "left_out": 0,
                        }
                    )
                for start in range(0, len(rows), 500):
                    Learnt.insert_many(rows[start : start + 500]).execute()
        one = timed(lambda: make_plan(make_joint(samples.CORNER), ASSUMED))
        took = timed(lambda: history.find_history("edge", "austenitic", "a", "RT"))
        print(
            f"own record among {Learnt.select().count()} runs: {took:.1f} ms, {took / one:.2f}"
            " plans"
        )
        took = timed(lambda: statistics.view("RT"), 3)
        print(f"what the record says: {took:.0f} ms, {took / one:.0f} plans")
        assert Revision.select().count() == 1
        store.close()


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--runs", type=int, default=100_000)
    readings()
    records(parser.parse_args().runs)
