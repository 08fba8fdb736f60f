"""Freeze the records and displays of this version: tests/records/VERSION.

Done once for each version that changed a format:

    .venv/bin/python tools/records.py

Existing records are never written again, because a later version must read them unchanged.
"""

from __future__ import annotations

import gzip
import json
import sys
import tempfile
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from tests.frozen import RECORDS, read_procedure_files
from tests.samples import SHOP, run, typed
from wisearc import __version__
from wisearc.core.history.shop_history import OwnRecord, OwnRun
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.words import sentence_text
from wisearc.core.plan.plan import Plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.drawings.plan.views import VIEWS, draw
from wisearc.formats.plan_json import read_plan
from wisearc.formats.plan_lines import build_summary, plan_lines, plan_notices
from wisearc.formats.shop_json import read_shop
from wisearc.services.procedures import book, procedures
from wisearc.services.runs import runs as running
from wisearc.store.opening import Store

# A plan within a shop.
WITHIN = "within"
# A purge of a run.
PURGE = {
    "volume_l": 0.543,
    "flow_l_min": 6.0,
    "weld_l_min": 3.0,
    "target_ppm": 50.0,
    "before_s": 61.0,
    "after_s": 34.0,
    "held": True,
    "at_arc_ppm": 44.0,
    "most_ppm": 61.0,
    "mixing": 0.81,
    "settles_ppm": 12.0,
    "argon_l": 14.2,
}
# The arc, the bead and the coupon of a run.
ARC: dict[str, Any] = {
    "arc": {
        "by": "log",
        "arc_s": 61.2,
        "pool_s": 1.7,
        "taper_s": 1.4,
        "held_s": 6.3,
        "restarts": 1,
        "beats": 91,
        "mean_a": 36.4,
        "rate_pps": 1.5,
        "on_pct": 30.1,
        "energy_kj": 23.4,
    },
    "arc_log": {"file": "run-7.csv", "sha256": "c0" * 32},
    "look": "even",
    "left_band": [
        {
            "what": "peak_a",
            "start_s": 20.1,
            "end_s": 24.0,
            "worst": 128.0,
            "low": 99.0,
            "high": 121.0,
        }
    ],
    "coupon": {
        "label": "with bar",
        "bend": "sheet",
        "hammer": "held",
        "rust": {"test": "kitchen", "minutes": 9.0, "shows": False},
    },
}
# An inspection of a run, its diagnosis, and the accepted change.
READ: dict[str, Any] = {
    "seen": {
        "faults": ["cold"],
        "look": "proud",
        "front_tint": "straw",
        "edges": "stand",
        "ripple": "even",
        "band_mm": 9.5,
        "where": {"cold": [0.8, 1.0]},
        "told": {"draught": False},
    },
    "reading": {
        "verdict": "not-good",
        "why": "Edges stand up, no blend.",
        "draft": "B",
        "causes": [
            {
                "code": "heat-low",
                "text": "too little heat",
                "weight": 0.91,
                "for": [
                    {
                        "sign": "cold",
                        "text": "edges stand up",
                        "text_in": "edges stand up",
                        "by": "seen",
                        "weight": 2.4,
                    }
                ],
                "against": [],
            }
        ],
        "change": {
            "code": "amps-up",
            "key": "current",
            "cause": "heat-low",
            "from": 50.0,
            "to": 54.0,
            "unit": "A",
            "text": "Current 50 A → 54 A",
            "text_in": "Current 50 A → 54 A",
            "watch": "The edges blend in.",
            "said": "",
            "sets": {"pins.current_a": 54.0},
        },
    },
}
# A plan with a shop history.
OWN = "own"


class Own:
    """A library in which five similar runs had 1.06 of the rule of thumb."""

    def like(self, family: str, metals: str, machine: str) -> OwnRecord:
        """Return the history.

        Args:
            family: Joint family.
            metals: Metal family.
            machine: Machine.
        """
        runs = tuple(OwnRun(i, "P-0001 A", "2026-03-04", machine, "RT", 0.0583) for i in range(5))
        return OwnRecord(1.06, 0.04, 0.05, 0.93, None, runs)


WHICH = ("pinned", "tube-cope", "stopped")


def shown(plan: Plan, habit: str) -> dict[str, Any]:
    """Return the complete display of a plan in a unit system."""
    lines = plan_lines(plan, habit)
    return {
        "sentence": sentence_text(plan.sentence, habit),
        "summary": build_summary(plan, habit),
        "lines": [[n.key, n.label, n.what, n.detail, n.by_hand, len(n.why)] for n in lines],
        "cautions": [
            [n.level, n.word, n.caution.code, n.caution.at, n.text]
            for n in plan_notices(plan, habit)
        ],
        "drawings": [
            [title, draw(view, plan, habit, "paper").words] for view, (title, _) in VIEWS.items()
        ],
    }


def pack(path: Path, text: str) -> None:
    """Write a compressed file without its time and name, so that equal texts give equal files."""
    with path.open("wb") as file, gzip.GzipFile("", "wb", 9, file, mtime=0) as packed:
        packed.write(text.encode())


def main() -> int:
    """Return 1 if the records of this version exist already."""
    folder = RECORDS / __version__.rpartition(".")[0]
    if folder.exists():
        print(f"{folder} stands already and is not written again", file=sys.stderr)
        return 1
    folder.mkdir()
    everything = {}
    with tempfile.TemporaryDirectory() as data:
        store = Store(Path(data))
        for name in (*WHICH, WITHIN, OWN):
            like = "outside-corner" if name in (WITHIN, OWN) else name
            joint = read_procedure_files(RECORDS / "0.1")[like]["joint"]
            shop = {WITHIN: read_shop(SHOP), OWN: replace(ASSUMED, own=Own())}.get(name, ASSUMED)
            kept = procedures.keep_draft(
                make_joint({k: v for k, v in joint.items() if k not in ("format", "version")}), shop
            )
            if not any(c["level"] == "stop" for c in kept.plan["cautions"]):
                told: dict[str, Any] = {"purge": PURGE} if kept.plan["back"]["purge"] else {}
                told |= ARC
                of = {k: v for k, v in joint.items() if k not in ("format", "version")}
                if name != OWN:
                    running.record_run(kept.procedure.label, "A", typed(run(of, **told)))
                running.record_run(
                    kept.procedure.label, "A", typed(run(of, good=False, **READ, joint=of))
                )
            text = book.procedure_text(procedures.queries.get_revision(kept.procedure.label, "A"))
            pack(folder / f"{name}.json.gz", text)
            plan = read_plan(json.loads(text)["plan"])
            everything[name] = {habit: shown(plan, habit) for habit in ("mm", "in")}
        store.close()
    pack(folder / "shown.json.gz", json.dumps(everything, ensure_ascii=False))
    return 0


if __name__ == "__main__":
    sys.exit(main())
