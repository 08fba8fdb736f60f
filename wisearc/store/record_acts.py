"""The acts on the record of a procedure, with the data for their undo."""

from __future__ import annotations

from ..core.schema.json_types import Json
from .database import wrap_errors
from .models import Procedure, RecordAct, Revision, RunRow

# Older acts of a procedure are forgotten: an undo reaches the last ones.
MAX_ACTS = 30


def add_act(
    kind: str,
    revision: Revision,
    text: str,
    at: str,
    run: RunRow | None = None,
    before: Json = None,
) -> RecordAct:
    """Save an act.

    Args:
        kind: Its kind.
        revision: The revision.
        text: A sentence about it.
        at: Current time, UTC.
        run: Its run, or None.
        before: The data before it.
    """
    act: RecordAct = RecordAct.create(
        procedure=revision.procedure,
        kind=kind,
        letter=revision.letter,
        run=run,
        text=text,
        before=before,
        at=at,
    )
    kept = (
        RecordAct.select(RecordAct.id)
        .where(RecordAct.procedure == revision.procedure)
        .order_by(RecordAct.id.desc())
        .limit(MAX_ACTS)
    )
    RecordAct.delete().where(
        (RecordAct.procedure == revision.procedure) & (RecordAct.id.not_in(kept))
    ).execute()
    return act


def find_last_act(owner: Procedure) -> RecordAct | None:
    """Return the last act on a procedure that is not undone, or None."""
    with wrap_errors():
        acts = RecordAct.select().where(
            (RecordAct.procedure == owner) & RecordAct.undone_at.is_null()
        )
        act: RecordAct | None = acts.order_by(RecordAct.id.desc()).first()
        return act


def mark_undone(act: RecordAct, at: str) -> None:
    """Mark an act as undone.

    Args:
        act: The act.
        at: Current time, UTC.
    """
    act.undone_at = at
    act.save(only=[RecordAct.undone_at])


def list_later_acts(owner: Procedure, number: int) -> list[RecordAct]:
    """Return the acts on a procedure after another one.

    Args:
        owner: The procedure.
        number: Number of the act.
    """
    with wrap_errors():
        later = RecordAct.select().where(
            (RecordAct.procedure == owner) & (RecordAct.id > number) & RecordAct.undone_at.is_null()
        )
        return list(later)
