"""The rows of the shop history, one for each run, rebuilt after a change."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from msgspec.structs import asdict

from ..core.history import lessons as core_lessons
from ..core.history.lessons import LearntRun
from ..core.history.shop_history import OwnRun
from ..core.schema.json_types import Json
from .database import execute, wrap_errors
from .models import NUMBER_FORM, Learnt, Revision, RunRow

_LIKE = """
    SELECT learnt.run, procedure.number, revision.letter, learnt.made_on, learnt.machine,
        learnt.hand, learnt.ratio, learnt.pace, learnt.held, learnt.weight, learnt.left_out,
        learnt.unknown, run.read_off IS NOT NULL AS confirmed
    FROM learnt JOIN run ON run.id = learnt.run JOIN revision ON revision.id = learnt.revision JOIN
        procedure ON procedure.id = learnt.procedure
    WHERE learnt.family = ? AND learnt.metals = ?
        AND learnt.weight > 0 AND learnt.ratio IS NOT NULL ORDER BY learnt.run DESC LIMIT ?"""
_LAST = """
    SELECT learnt.*, procedure.number, revision.letter FROM learnt JOIN
        revision ON revision.id = learnt.revision
    JOIN procedure ON procedure.id = learnt.procedure ORDER BY learnt.run DESC LIMIT ?"""

_OWN_FIGURES = ("made_on", "machine", "hand", "ratio", "pace", "held", "weight")
_OWN_FLAGS = ("left_out", "unknown", "confirmed")


def put(of: Revision, runs: Sequence[LearntRun], only: int | None = None) -> None:
    """Replace the history rows of a revision.

    Args:
        of: The revision.
        runs: The rows.
        only: Number of the only run to replace, or None for all.
    """
    which = Learnt.revision == of.id if only is None else Learnt.run == only
    stored: Any = Learnt.select().where(which).dicts()
    held = {row["run"]: row for row in stored}
    fresh = {run.run: _build_row(run) for run in runs}
    removed = [run for run, row in held.items() if fresh.get(run) != row]
    for first in range(0, len(removed), 500):
        Learnt.delete().where(Learnt.run << removed[first : first + 500]).execute()
    added = [row for run, row in fresh.items() if held.get(run) != row]
    for first in range(0, len(added), 500):
        Learnt.insert_many(added[first : first + 500]).execute()


def _build_row(run: LearntRun) -> dict[str, Json]:
    fields = {key: value for key, value in asdict(run).items() if key not in ("label", "told")}
    flags = {"good": int(run.good), "left_out": int(run.left_out), "unknown": int(run.told.unknown)}
    return fields | asdict(run.told) | flags | {"faults": list(run.told.faults)}


def list_similar(family: str, metals: str, maximum: int) -> list[OwnRun]:
    """Return the newest good runs of a family, the newest first, including excluded ones.

    Args:
        family: Joint family.
        metals: Metal family.
        maximum: Maximum number.
    """
    similar = []
    for row in _list_rows(_LIKE, (family, metals, maximum)):
        values = {key: row[key] for key in _OWN_FIGURES}
        values |= {key: bool(row[key]) for key in _OWN_FLAGS}
        similar.append(OwnRun(row["run"], _label(row["number"], row["letter"]), **values))
    return similar


def _list_rows(sql: str, values: tuple[Json, ...]) -> list[dict[str, Any]]:
    """Return the rows of a query by column name."""
    with wrap_errors():
        cursor = execute(sql, values)
        keys = [column[0] for column in cursor.description]
        return [dict(zip(keys, row, strict=True)) for row in cursor.fetchall()]


def _label(number: int, letter: str) -> str:
    return f"{NUMBER_FORM.format(number)} {letter}"


def get_version() -> int:
    """Return the mark of the present state of the history, which every change replaces."""
    with wrap_errors():
        return int(execute("SELECT version FROM history_version").fetchone()[0])


def list_last(maximum: int) -> list[LearntRun]:
    """Return the last recorded runs, the newest first."""
    rows = _list_rows(_LAST, (maximum,))
    learnt_fields, own_fields = (of.__struct_fields__ for of in (core_lessons.Learnt, LearntRun))
    learnt_rows = []
    for row in rows:
        row |= {"faults": tuple(json.loads(row["faults"])), "unknown": bool(row["unknown"])}
        row["told"] = core_lessons.Learnt(**{key: row[key] for key in learnt_fields})
        row["label"] = _label(row["number"], row["letter"])
        row |= {"good": bool(row["good"]), "left_out": bool(row["left_out"])}
        learnt_rows.append(LearntRun(**{key: row[key] for key in own_fields}))
    return learnt_rows


def set_left_out(run: RunRow, moment: str | None) -> None:
    """Exclude a run from the shop history, or include it again.

    Args:
        run: The run.
        moment: Time of the exclusion, or None.
    """
    run.left_out = moment
    run.save(only=[RunRow.left_out])


def set_read_off(run: RunRow, moment: str | None) -> None:
    """Record whether the set current of a run was read off while welding.

    Args:
        run: The run.
        moment: Time of the answer, or None.
    """
    run.read_off = moment
    run.save(only=[RunRow.read_off])


def list_families() -> list[tuple[str, str, int]]:
    """Return the families of good runs with a known current, with their number."""
    with wrap_errors():
        sql = (
            "SELECT family, metals, count(*) FROM learnt WHERE weight > 0 AND ratio IS NOT NULL"
            " GROUP BY family, metals ORDER BY 3 DESC"
        )
        return [(family, metals, int(n)) for family, metals, n in execute(sql).fetchall()]
