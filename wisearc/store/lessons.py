"""What runs tell for joints like their own: a row for each, made of it, and made again whenever it
changes.
"""

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
from .models import NUMBER_FORM, Drilled, Learnt, Revision, RunRow

_LIKE = """
    SELECT learnt.run, procedure.number, revision.letter, learnt.made_on, learnt.machine,
        learnt.hand, learnt.ratio, learnt.pace, learnt.held, learnt.weight, learnt.left_out
    FROM learnt JOIN revision ON revision.id = learnt.revision JOIN
        procedure ON procedure.id = learnt.procedure
    WHERE learnt.family = ? AND learnt.metals = ?
        AND learnt.weight > 0 AND learnt.ratio IS NOT NULL ORDER BY learnt.run DESC LIMIT ?"""
_LAST = """
    SELECT learnt.*, procedure.number, revision.letter FROM learnt JOIN
        revision ON revision.id = learnt.revision
    JOIN procedure ON procedure.id = learnt.procedure ORDER BY learnt.run DESC LIMIT ?"""


def put(of: Revision, runs: Sequence[LearntRun], only: int | None = None) -> None:
    """Put what the runs of a revision tell in the place of what they told. Parameters: only, of one
    run, by its number.
    """
    which = Learnt.revision == of.id if only is None else Learnt.run == only
    stored: Any = Learnt.select().where(which).dicts()
    held = {row["run"]: row for row in stored}
    fresh = {one.run: _build_row(one) for one in runs}
    gone = [run for run, row in held.items() if fresh.get(run) != row]
    for first in range(0, len(gone), 500):
        Learnt.delete().where(Learnt.run << gone[first : first + 500]).execute()
    added = [row for run, row in fresh.items() if held.get(run) != row]
    for first in range(0, len(added), 500):
        Learnt.insert_many(added[first : first + 500]).execute()


def _build_row(one: LearntRun) -> dict[str, Json]:
    own = {key: value for key, value in asdict(one).items() if key not in ("label", "told")}
    flags = {"good": int(one.good), "left_out": int(one.left_out)}
    return own | asdict(one.told) | flags | {"faults": list(one.told.faults)}


def list_similar(family: str, metals: str, most: int) -> list[OwnRun]:
    """The newest good runs of a family in metals, the newest first, those left out too."""
    with wrap_errors():
        found = execute(_LIKE, (family, metals, most)).fetchall()
    return [
        OwnRun(
            run, _label(number, letter), day, machine, hand, ratio, pace, held, weight, bool(out)
        )
        for run, number, letter, day, machine, hand, ratio, pace, held, weight, out in found
    ]


def _label(number: int, letter: str) -> str:
    return f"{NUMBER_FORM.format(number)} {letter}"


def list_last(most: int) -> list[LearntRun]:
    """The runs that were written down last, the newest first."""
    with wrap_errors():
        cursor = execute(_LAST, (most,))
        keys = [column[0] for column in cursor.description]
        rows = [dict(zip(keys, row, strict=True)) for row in cursor.fetchall()]
    told, own = (of.__struct_fields__ for of in (core_lessons.Learnt, LearntRun))
    found = []
    for row in rows:
        row["faults"] = tuple(json.loads(row["faults"]))
        row["told"] = core_lessons.Learnt(**{key: row[key] for key in told})
        row["label"] = _label(row["number"], row["letter"])
        row |= {"good": bool(row["good"]), "left_out": bool(row["left_out"])}
        found.append(LearntRun(**{key: row[key] for key in own}))
    return found


def set_left_out(run: RunRow, moment: str | None) -> None:
    """Leave a run out of the own record, or take it in again."""
    run.left_out = moment
    run.save(only=[RunRow.left_out])


def list_attempts(drill: str, hand: str, most: int) -> list[Drilled]:
    """The last tries of a drill by a hand, the newest first; those taken back left away."""
    with wrap_errors():
        own = Drilled.select().where(
            (Drilled.drill == drill) & (Drilled.hand == hand) & Drilled.removed_at.is_null()
        )
        return list(own.order_by(Drilled.id.desc()).limit(most))


def list_families() -> list[tuple[str, str, int]]:
    """The families of good runs that tell of a current, with how many of each."""
    with wrap_errors():
        sql = (
            "SELECT family, metals, count(*) FROM learnt WHERE weight > 0 AND ratio IS NOT NULL"
            " GROUP BY family, metals ORDER BY 3 DESC"
        )
        return [(family, metals, int(n)) for family, metals, n in execute(sql).fetchall()]
