"""The demo: the library of an invented shop, from `demo.toml`.

The core calculates its plans as for any joint.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import tomli

from ...core.joint.data import make_joint
from ...core.run.run import get_planned_values, read_run
from ...core.schema.json_types import Json
from ...core.shop.data import make_shop
from ...core.shop.shop import ASSUMED
from ...formats.jobs.job_json import read_job
from ...store import queries
from ...store.database import open_transaction
from ...store.models import Revision
from ...store.opening import Store
from ..diagnosis import diagnosis
from ..inventory import shop_files
from ..jobs import jobs
from ..people.people import Person
from ..procedures import procedures
from ..procedures.signatures import add_signature
from ..runs import runs as running
from ..runs.kept_files import KeptFiles

KEPT_ON = "03-01"
# The machines of the demo that show the current while welding. Runs on the others do not count in
# the shop history.
SHOWS_CURRENT = ("bench",)


def fill_if_empty(store: Store) -> bool:
    """Fill an empty library with the demo, and return whether it was empty."""
    try:
        if not queries.is_empty() or queries.get_library_kind() == "own":
            return False
        data = tomli.loads(Path(__file__).with_name("demo.toml").read_text(encoding="utf-8"))
        with open_transaction():
            queries.set_library_kind("demo")
            shop_files.replace_lists(make_shop(_read_demo_shop()))
            for key, joint in data["joints"].items():
                runs = joint.pop("runs", [])
                draft = procedures.keep_draft(make_joint(joint), ASSUMED, at=_build_clock(KEPT_ON))
                later = data["then"].get(key, {"kept": "12-31", "runs": []})
                reads = dict(data["reads"].get(key, []))
                photographs = {
                    number: _keep_photograph(name, KeptFiles(store.folder))
                    for number, name in data["photographs"].get(key, [])
                }
                _run_all(
                    draft,
                    [row for row in runs if row[0] < later["kept"]],
                    data["machines"],
                    reads,
                    photographs,
                )
                if "changes" in later:
                    changed = make_joint({**joint, **later["changes"]})
                    revision = procedures.revise(
                        draft.procedure.label, changed, ASSUMED, at=_build_clock(later["kept"])
                    )
                    _run_all(revision, later["runs"], data["machines"])
            for label, letter, role, who, day in data["signatures"]:
                person = Person(0, who, "", "welder", False)
                add_signature(label, letter, role, person, who, at=_build_clock(day))
            mast = json.loads(Path(__file__).with_name("demo_job.json").read_text(encoding="utf-8"))
            mast_job = read_job(mast)
            jobs.begin(mast_job.title, at=_build_clock("06-15"), job=mast_job)
        return True
    finally:
        store.close()


def _read_demo_shop() -> dict[str, Json]:
    """Return the demo shop as plain data.

    TOML has no null, so its place has false.
    """
    data = tomli.loads(Path(__file__).with_name("demo_shop.toml").read_text(encoding="utf-8"))
    for machine in data["machines"]:
        machine["pulse"] = machine["pulse"] or None
    return data


def _keep_photograph(name: str, files: KeptFiles) -> dict[str, Json]:
    """Save a measured photograph of the demo, and return its data for a run."""
    folder = Path(__file__).with_name("demo_photographs")
    sha256, straightened = (
        files.put_photograph((folder / f"{name}{kind}.jpg").read_bytes())
        for kind in ("", "-straightened")
    )
    measured: Json = json.loads((folder / f"{name}.json").read_text(encoding="utf-8"))
    return {
        "file": f"{name}.jpg",
        "sha256": sha256,
        "face": "front",
        "measured": measured,
        "straightened": straightened,
    }


def _build_clock(day: str) -> Callable[[], str]:
    return lambda: f"2026-{day}T16:00:00Z"


def _run_all(
    revision: Revision,
    rows: list[list[Any]],
    machines: Mapping[str, str],
    reads: Mapping[int, str] | None = None,
    photographs: Mapping[int, dict[str, Json]] | None = None,
) -> None:
    """Record the demo runs of a revision, with planned settings except as given.

    `reads` has the accepted changes and `photographs` the photographs by run, from 0.
    """
    label, letter = revision.procedure.label, revision.letter
    plan = procedures.get_plan(revision)
    planned = get_planned_values(plan)
    for i, (day, who, machine, front, back, faults, good, share, notes, *other) in enumerate(rows):
        recorded: dict[str, dict[str, Json]] = {"set": {}, "used": {}, "measured": {}}
        for key, (value, _) in planned.items():
            part, _, name = key.partition(".")
            recorded[part][name] = value
        for key, factor in (other[0] if other else {}).items():
            part, _, name = key.partition(".")
            recorded[part][name] = round(recorded[part].get(name, 1.0) * factor, 2)
        bead = round(plan.travel.pool_width_mm * (1.0 if good else 1.2), 1)
        measured = {
            "length_mm": plan.travel.length_mm,
            "arc_time_s": round(plan.travel.arc_time_s * share),
            "bead_mm": bead,
        }
        if machine in SHOWS_CURRENT:
            set_share = float(str(recorded["set"]["current_a"])) / plan.slopes.machine_a
            measured["read_off_a"] = round(plan.slopes.mean_a * set_share)
        run = {
            "when": f"2026-{day}",
            "who": who,
            "machine": machines[machine],
            "faults": faults,
            "good": good,
            "notes": notes,
            "front": {"colour": front},
            "back": {"colour": back},
            "photographs": [photographs[i]] if photographs and i in photographs else [],
            **recorded,
            "measured": measured,
        }
        run_row, _ = running.record_run(label, letter, read_run(run), at=_build_clock(day))
        if reads and i in reads:
            diagnosis.save_change(
                label,
                letter,
                run_row.id,
                diagnosis.build_inspection(run_row.document),
                reads[i],
                ASSUMED,
            )
