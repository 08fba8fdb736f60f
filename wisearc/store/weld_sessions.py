"""Weld sessions: creation, events saved once, result."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from ..core.schema.json_types import JsonObject
from .database import wrap_errors
from .models import ActRow, AtArc


def begin(subject: str, title: str, job: str, once: str, who: str, began: float) -> AtArc:
    """Create a session with the number of its device, or return the existing one.

    Args:
        subject: The plan or procedure.
        title: Its title.
        job: Name of the run of a job, or "".
        once: Number on the device.
        who: Initials of the person.
        began: Start, s since 1970.
    """
    AtArc.insert(
        what=subject, title=title, job=job, once=once, who=who, began=began
    ).on_conflict_ignore().execute()
    return AtArc.get(AtArc.once == once)


def find_run(number: int) -> AtArc | None:
    """Return a session by its number."""
    with wrap_errors():
        return AtArc.get_or_none(AtArc.id == number)


def find_run_by_token(once: str) -> AtArc | None:
    """Return a session by its number on the device."""
    with wrap_errors():
        return AtArc.get_or_none(AtArc.once == once)


def find_newest(subject: str, job: str) -> AtArc | None:
    """Return the newest session of a subject that was neither recorded nor left.

    Args:
        subject: The plan or procedure.
        job: Name of the run of a job, or "".
    """
    with wrap_errors():
        is_subject = (AtArc.what == subject) & (AtArc.job == job)
        session: AtArc | None = (
            AtArc.select().where(is_subject & _open()).order_by(AtArc.id.desc()).first()
        )
        return session


def open_runs(maximum: int) -> list[AtArc]:
    """Return the sessions that were neither recorded nor left, newest first."""
    with wrap_errors():
        return list(AtArc.select().where(_open()).order_by(AtArc.id.desc()).limit(maximum))


def _open() -> Any:
    return AtArc.run.is_null() & AtArc.left_at.is_null()


def change(number: int, **values: Any) -> None:
    """Set fields of a session."""
    AtArc.update(**values).where(AtArc.id == number).execute()


def clear_port(port: int) -> None:
    """Disconnect the sessions without a record from the power source at a port."""
    AtArc.update(port=None).where(AtArc.run.is_null() & (AtArc.port == port)).execute()


def add_acts(number: int, device: str, acts: Iterable[JsonObject]) -> None:
    """Add the events of a device, each once.

    Args:
        number: The session.
        device: The device.
        acts: The events.
    """
    for act in acts:
        ActRow.insert(at_arc=number, device=device, **act).on_conflict_ignore().execute()


def list_acts(number: int) -> list[ActRow]:
    """Return the events of a session in order of time."""
    with wrap_errors():
        return list(ActRow.select().where(ActRow.at_arc == number).order_by(ActRow.at, ActRow.id))
