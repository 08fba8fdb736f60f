"""A large library for the benchmarks: a few plans, saved under many numbers with runs."""

from __future__ import annotations

import itertools
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))


def build_library(folder: Path, many: int, runs: int = 5) -> None:
    """Build the library.

    Args:
        folder: The data folder.
        many: Number of procedures.
        runs: Runs of each.
    """
    from tests.samples import run, typed
    from wisearc.core.joint.data import make_joint
    from wisearc.core.shop.shop import ASSUMED
    from wisearc.formats.run_json import run_record
    from wisearc.services.maintenance.opening import open_data
    from wisearc.services.procedures import library_search, procedures
    from wisearc.store import database, queries
    from wisearc.store.database import db, open_transaction
    from wisearc.store.models import Procedure, Revision

    database.PRAGMAS["synchronous"] = "off"
    store = open_data(folder)
    metals, sizes = ("304L", "316L", "430", "321"), ("16 ga", "1.2 mm", "0.9 mm", "2 mm")
    for metal, size in itertools.product(metals, sizes):
        joint = {
            "joint": "outside-corner",
            "members": [{"metal": metal, "thickness": size}] * 2,
            "length": "380 mm",
            "title": f"Tray of {metal}",
        }
        procedures.keep_draft(make_joint(joint), ASSUMED)
    like = list(Revision.select())
    with open_transaction():
        for number in range(17, many + 1):
            owner = Procedure.create(number=number, created_at="2026-01-01T08:00:00Z")
            old = {
                k: v
                for k, v in like[number % 16].__data__.items()
                if k not in ("id", "procedure", "once", "taken_as")
            }
            new = Revision.create(procedure=owner, **old)
            made = run_record(
                typed(run(good=False, notes=f"run of {number}", set={"current_a": 90})),
                owner.label,
                "A",
            )
            rows = [
                {
                    "revision": new,
                    "made_on": "2026-03-04",
                    "record": made,
                    "good": False,
                    "kept_at": "2026-03-04T08:00:00Z",
                }
            ]
            queries.add_runs(rows * runs)
            library_search.list_record(new)
    store.close()
    db.close()
