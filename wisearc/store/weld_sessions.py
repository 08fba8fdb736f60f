"""Runs at the arc: begun, their acts taken once, what became of them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from ..core.schema.json_types import JsonObject
from .database import wrap_errors
from .models import ActRow, AtArc


def begin(what: str, title: str, job: str, once: str, who: str, began: float) -> AtArc:
    """A run begun by a device's own number; the one that was begun by it already."""
    AtArc.insert(
        what=what, title=title, job=job, once=once, who=who, began=began
    ).on_conflict_ignore().execute()
    return AtArc.get(AtArc.once == once)


def find_run(number: int) -> AtArc | None:
    """A run at the arc by its number."""
    with wrap_errors():
        return AtArc.get_or_none(AtArc.id == number)


def find_run_by_token(once: str) -> AtArc | None:
    """A run at the arc by the number its device began it by."""
    with wrap_errors():
        return AtArc.get_or_none(AtArc.once == once)


def find_newest(what: str, job: str) -> AtArc | None:
    """The newest run at the arc of something that was neither written down nor left."""
    with wrap_errors():
        of_it = (AtArc.what == what) & (AtArc.job == job)
        found: AtArc | None = (
            AtArc.select().where(of_it & _open()).order_by(AtArc.id.desc()).first()
        )
        return found


def open_runs(most: int) -> list[AtArc]:
    """The runs that were neither written down nor left, newest first."""
    with wrap_errors():
        return list(AtArc.select().where(_open()).order_by(AtArc.id.desc()).limit(most))


def _open() -> Any:
    return AtArc.run.is_null() & AtArc.left_at.is_null()


def change(number: int, **values: Any) -> None:
    """Set what became of a run."""
    AtArc.update(**values).where(AtArc.id == number).execute()


def add_acts(number: int, device: str, acts: Iterable[JsonObject]) -> None:
    """Add acts that a device sent, each once."""
    for act in acts:
        ActRow.insert(at_arc=number, device=device, **act).on_conflict_ignore().execute()


def list_acts(number: int) -> list[ActRow]:
    """The acts of a run, in the order of their moments."""
    with wrap_errors():
        return list(ActRow.select().where(ActRow.at_arc == number).order_by(ActRow.at, ActRow.id))
