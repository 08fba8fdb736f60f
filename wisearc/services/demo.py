"""The demo: the book of an invented shop, from `demo.toml`. Its plans are worked out by the core as for anyone."""

from __future__ import annotations

import tomllib
from collections.abc import Callable
from importlib.resources import files
from typing import Any

from ..core.joint_data import make_joint
from ..core.record import as_planned
from ..core.shop import ASSUMED
from ..formats.plan_json import read_plan
from ..store import queries
from ..store.database import transaction
from ..store.models import Revision
from ..store.opening import Store
from . import keeping

KEPT_ON = "03-01"


def fill_if_empty(store: Store) -> bool:
    """Fill an empty book with the demo. Returns whether it was filled."""
    try:
        if not queries.is_empty():
            return False
        data = tomllib.loads(files(__package__).joinpath("demo.toml").read_text(encoding="utf-8"))
        with transaction():
            for key, joint in data["joints"].items():
                runs = joint.pop("runs", [])
                draft = keeping.keep_draft(make_joint(joint), ASSUMED, at=_at(KEPT_ON))
                later = data["then"].get(key, {"kept": "12-31", "runs": []})
                _run_all(draft, [row for row in runs if row[0] < later["kept"]], data["machines"])
                if "changes" in later:
                    changed = make_joint({**joint, **later["changes"]})
                    revision = keeping.revise(draft.procedure.label, changed, ASSUMED, at=_at(later["kept"]))
                    _run_all(revision, later["runs"], data["machines"])
        return True
    finally:
        store.close()


def _at(day: str) -> Callable[[], str]:
    return lambda: f"2026-{day}T16:00:00Z"


def _run_all(revision: Revision, rows: list[list[Any]], machines: dict[str, str]) -> None:
    """Take down the demo's runs of a revision, each as if set as planned."""
    plan = read_plan(revision.plan)
    was_set = {key: round(value, 1) for key, (value, _) in as_planned(plan).items()}
    for day, who, machine, front, back, faults, good, share, notes in rows:
        bead = round(plan.travel.pool_width_mm * (1.0 if good else 1.2), 1)
        run = {
            "when": f"2026-{day}", "who": who, "machine": machines[machine], "faults": faults, "good": good, "notes": notes,
            "front": {"colour": front}, "back": {"colour": back}, "photographs": [], "set": was_set,
            "measured": {"peak_a": round(plan.pulse.peak_a * 0.98), "arc_time_s": round(plan.travel.arc_time_s * share), "bead_mm": bead},
        }  # fmt: skip
        keeping.record_run(revision.procedure.label, revision.letter, run, at=_at(day))
