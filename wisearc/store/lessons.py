"""What runs tell for joints like their own: a row for each, made of it, and made again whenever it
changes.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any

from .database import execute, translated
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


def put(of: Revision, rows: Sequence[Mapping[str, Any]], only: int | None = None) -> None:
    """Put what the runs of a revision tell in the place of what they told. Parameters: only, of one
    run, by its number.
    """
    which = Learnt.revision == of.id if only is None else Learnt.run == only
    stored: Any = Learnt.select().where(which).dicts()
    held = {row["run"]: row for row in stored}
    fresh = {row["run"]: row for row in rows}
    gone = [run for run, row in held.items() if fresh.get(run) != row]
    for first in range(0, len(gone), 500):
        Learnt.delete().where(Learnt.run << gone[first : first + 500]).execute()
    added = [row for run, row in fresh.items() if held.get(run) != row]
    for first in range(0, len(added), 500):
        Learnt.insert_many(added[first : first + 500]).execute()


def like(family: str, metals: str, most: int) -> list[dict[str, Any]]:
    """The newest good runs of a family in metals, the newest first, each with its label, those left
    out too.
    """
    with translated():
        found = execute(_LIKE, (family, metals, most)).fetchall()
    keys = ("made_on", "machine", "hand", "ratio", "pace", "held", "weight", "left_out")
    return [
        {
            "number": run,
            "label": f"{NUMBER_FORM.format(number)} {letter}",
            **dict(zip(keys, rest, strict=True)),
        }
        for run, number, letter, *rest in found
    ]


def last(most: int) -> list[dict[str, Any]]:
    """The runs that were written down last, the newest first."""
    with translated():
        cursor = execute(_LAST, (most,))
        keys = [column[0] for column in cursor.description]
        rows = [dict(zip(keys, row, strict=True)) for row in cursor.fetchall()]
    for row in rows:
        row["faults"] = json.loads(row["faults"])
        row["label"] = f"{NUMBER_FORM.format(row['number'])} {row['letter']}"
    return rows


def set_left_out(run: RunRow, moment: str | None) -> None:
    """Leave a run out of the own record, or take it in again."""
    run.left_out = moment
    run.save(only=[RunRow.left_out])


def drilled(drill: str, hand: str, most: int) -> list[Drilled]:
    """The last tries of a drill by a hand, the newest first; those taken back left away."""
    with translated():
        own = Drilled.select().where(
            (Drilled.drill == drill) & (Drilled.hand == hand) & Drilled.removed_at.is_null()
        )
        return list(own.order_by(Drilled.id.desc()).limit(most))


def families() -> list[tuple[str, str, int]]:
    """The families of good runs that tell of a current, with how many of each."""
    with translated():
        sql = (
            "SELECT family, metals, count(*) FROM learnt WHERE weight > 0 AND ratio IS NOT NULL"
            " GROUP BY family, metals ORDER BY 3 DESC"
        )
        return [(family, metals, int(n)) for family, metals, n in execute(sql).fetchall()]
