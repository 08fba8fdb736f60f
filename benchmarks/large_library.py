"""A library of 100,000 procedures, 1,000,000 runs and 50,000 photographs, written as rows.

    .venv/bin/python benchmarks/large_library.py FOLDER [PROCEDURES]

A few plans are calculated, and saved under many numbers with other sizes, titles and runs.
"""

from __future__ import annotations

import hashlib
import itertools
import json
import random
import sqlite3
import sys
import time
from contextlib import closing
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

PROCEDURES, RUNS, PHOTOGRAPHS = 100_000, 10, 50_000
MACHINES = ("bench 200", "field 160", "bench 250", "shop 300")
WELDERS = tuple(f"{a}.{b}." for a in "ABCKMRT" for b in "OSTN")
PART_NAMES = (
    "tray",
    "lid",
    "rim",
    "stay",
    "mast",
    "duct",
    "panel",
    "foot",
    "box",
    "bracket",
    "cover",
)


def build_templates(folder: Path) -> None:
    """Save the plans that the library repeats."""
    from wisearc.core.joint.data import make_joint
    from wisearc.core.shop.shop import ASSUMED
    from wisearc.services.maintenance.opening import open_data
    from wisearc.services.procedures import procedures
    from wisearc.store.database import db

    store = open_data(folder)
    tube = {"form": "tube", "diameter": "51 mm"}
    for metal, size, kind in itertools.product(
        ("304L", "316L", "430", "321"), ("0.9 mm", "1.2 mm", "16 ga", "2 mm"), ("sheet", "tube")
    ):
        member = {"metal": metal, "thickness": size, **(tube if kind == "tube" else {})}
        joint = "tube-butt" if kind == "tube" else "outside-corner"
        length = "all-round" if kind == "tube" else "380 mm"
        procedures.keep_draft(
            make_joint({"joint": joint, "members": [member] * 2, "length": length}), ASSUMED
        )
    store.close()
    db.close()


def build(folder: Path, procedures: int = PROCEDURES) -> None:
    """Build the library.

    Args:
        folder: The data folder.
        procedures: Number of procedures.
    """
    build_templates(folder)
    chance = random.Random(7)
    files = folder / "files"
    files.mkdir(exist_ok=True)
    with closing(sqlite3.connect(folder / "wisearc.sqlite3", isolation_level=None)) as db:
        db.row_factory = sqlite3.Row
        db.execute("PRAGMA synchronous = off")
        db.execute("PRAGMA foreign_keys = off")
        revisions = [dict(row) for row in db.execute("SELECT * FROM revision ORDER BY id")]
        listed = [dict(row) for row in db.execute("SELECT * FROM listing ORDER BY revision_id")]
        found = [
            dict(row) for row in db.execute("SELECT rowid AS id, * FROM finding ORDER BY rowid")
        ]
        first, run_id, photographs = len(revisions) + 1, 0, 0
        triggers = [
            row["sql"]
            for row in db.execute(
                "SELECT sql FROM sqlite_schema WHERE type = 'trigger' AND tbl_name = 'learnt'"
            )
        ]
        for name in [
            row["name"]
            for row in db.execute(
                "SELECT name FROM sqlite_schema WHERE type = 'trigger' AND tbl_name = 'learnt'"
            )
        ]:
            db.execute(f"DROP TRIGGER {name}")
        db.execute("BEGIN")
        for number in range(first, procedures + 1):
            i = number % len(revisions)
            moment = f"20{16 + number % 10}-{1 + number % 12:02}-{1 + number % 28:02}T08:00:00Z"
            title = f"{chance.choice(PART_NAMES).capitalize()} {number} {chance.choice(PART_NAMES)}"
            status = ("draft", "proved", "proved", "superseded")[number % 4]
            db.execute("INSERT INTO procedure VALUES (?, ?, NULL, ?)", (number, number, moment))
            row = revisions[i] | {
                "id": number,
                "procedure_id": number,
                "title": title,
                "status": status,
                "once": None,
                "changed_at": moment,
                "proved_at": None if status == "draft" else moment,
            }
            _insert(db, "revision", row)
            good, words = 0, {("metal", listed[i]["metals"].split(" + ")[0])}
            for j in range(RUNS):
                run_id += 1
                machine, who = chance.choice(MACHINES), chance.choice(WELDERS)
                is_good = status != "draft" and j % 3 == 0
                good += is_good
                words |= {("machine", machine), ("welder", who)}
                record = _build_record(number, who, machine, is_good, moment)
                if run_id % (procedures * RUNS // PHOTOGRAPHS or 1) == 0:
                    photographs += 1
                    record["photographs"] = [_write_photograph(files, photographs)]
                db.execute(
                    "INSERT INTO run (id, revision_id, made_on, record, good, kept_at, corrections)"
                    " VALUES (?, ?, ?, ?, ?, ?, '[]')",
                    (run_id, number, moment[:10], json.dumps(record), int(is_good), moment),
                )
                db.execute(
                    "INSERT INTO learnt (run, revision, procedure, made_on, machine, hand, family,"
                    " metals, good, weight, ratio, pace, held, faults, cause, change, left_out,"
                    " unknown) VALUES (?, ?, ?, ?, ?, ?, 'sheet edge', ?, ?, ?, ?, 1, 6, '[]', '',"
                    " '', 0, 0)",
                    (
                        run_id,
                        number,
                        number,
                        moment[:10],
                        machine,
                        who.replace(".", ""),
                        listed[i]["metals"],
                        int(is_good),
                        float(is_good),
                        0.9 + 0.2 * chance.random(),
                    ),
                )
            listing = listed[i] | {
                "revision_id": number,
                "number": number,
                "title": title,
                "status": status,
                "runs": RUNS,
                "good": good,
                "used_at": moment,
                "thin_mm": listed[i]["thin_mm"] + number % 50 / 100,
            }
            _insert(db, "listing", listing)
            db.executemany(
                "INSERT INTO listing_word VALUES (?, ?, ?)",
                [(kind, value, number) for kind, value in words],
            )
            texts = found[i]
            db.execute(
                "INSERT INTO finding (rowid, number, title, metals, thickness, rods, who, notes)"
                " VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
                (
                    number,
                    f"P-{number:04} {number:04} {number} A",
                    f"{title} {texts['title']}",
                    texts["metals"],
                    texts["thickness"],
                    texts["rods"],
                    " ".join(value for kind, value in words if kind == "welder"),
                    f"run of {title} bench 200",
                ),
            )
        db.execute(
            "UPDATE revision SET verifying_run = (SELECT min(id) FROM run WHERE revision_id ="
            " revision.id AND good = 1) WHERE status <> 'draft'"
        )
        db.execute("COMMIT")
        for sql in triggers:
            db.execute(sql)
        db.execute("UPDATE shop SET changes = changes + 1")
        db.execute("ANALYZE")


def _insert(db: sqlite3.Connection, table: str, row: dict[str, object]) -> None:
    places = ", ".join("?" * len(row))
    db.execute(f"INSERT INTO {table} ({', '.join(row)}) VALUES ({places})", list(row.values()))


def _build_record(
    number: int, who: str, machine: str, is_good: bool, moment: str
) -> dict[str, object]:
    return {
        "format": "wisearc/run",
        "version": 1,
        "minor": 7,
        "when": moment[:10],
        "who": who,
        "machine": machine,
        "front": {"colour": "straw"},
        "back": {"colour": "silver"},
        "good": is_good,
        "faults": [] if is_good else ["cold"],
        "set": {"current_a": 60 + number % 40, "flow_l_min": 9.6, "postflow_s": 6},
        "used": {"rod": "ER316L", "rod_mm": 1.2, "cup": 8},
        "measured": {"length_mm": 380, "arc_time_s": 110 + number % 30, "bead_mm": 3.5},
        "notes": "Invented for the benchmark.",
        "procedure": f"P-{number:04}",
        "revision": "A",
    }


def _write_photograph(files: Path, number: int) -> dict[str, str]:
    data = b"\xff\xd8 photograph " + str(number).encode()
    sha256 = hashlib.sha256(data).hexdigest()
    (files / f"{sha256}.jpg").write_bytes(data)
    return {"file": f"photograph-{number}.jpg", "sha256": sha256}


if __name__ == "__main__":
    begun = time.monotonic()
    target = Path(sys.argv[1])
    target.mkdir(parents=True, exist_ok=True)
    build(target, int(sys.argv[2]) if len(sys.argv) > 2 else PROCEDURES)
    size = (target / "wisearc.sqlite3").stat().st_size / 1e9
    print(f"built in {time.monotonic() - begun:.0f} s, {size:.1f} GB")
