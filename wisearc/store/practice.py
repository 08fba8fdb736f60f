"""The tries of practice, by their owner."""

from __future__ import annotations

import peewee

from .database import execute, wrap_errors
from .models import Drilled, PracticeTry


def list_tries(learner: str, lesson: str | None, maximum: int) -> list[PracticeTry]:
    """Return the last tries of a learner, the newest first, without removed ones and tracks.

    Args:
        learner: The owner.
        lesson: A lesson, "" for seams without one, or None for all.
        maximum: Maximum number.
    """
    with wrap_errors():
        fields = [f for f in PracticeTry._meta.sorted_fields if f.name != "track"]
        chosen = PracticeTry.select(*fields).where(
            (PracticeTry.learner == learner) & PracticeTry.removed_at.is_null()
        )
        if lesson is not None:
            chosen = chosen.where(PracticeTry.lesson == lesson)
        return list(chosen.order_by(PracticeTry.id.desc()).limit(maximum))


def find_try(learner: str, number: int) -> PracticeTry | None:
    """Return a try of a learner, or None.

    Args:
        learner: The owner.
        number: Number of the try.
    """
    return _find(learner, PracticeTry.id == number)


def find_once(learner: str, token: str) -> PracticeTry | None:
    """Return the try of an earlier request with a token, or None.

    Args:
        learner: The owner.
        token: Token of the request.
    """
    return _find(learner, PracticeTry.once == token)


def _find(learner: str, condition: peewee.Expression) -> PracticeTry | None:
    with wrap_errors():
        row: PracticeTry | None = PracticeTry.get_or_none(
            condition & (PracticeTry.learner == learner)
        )
        return row


def add_try(row: PracticeTry) -> PracticeTry:
    """Add a try.

    Args:
        row: Its row.
    """
    with wrap_errors():
        row.save(force_insert=True)
        return row


def forget_tracks(learner: str, tracks: int, most: int) -> None:
    """Delete the tracks of old tries of a learner, and the oldest tries.

    Args:
        learner: The owner.
        tracks: Maximum number of tracks.
        most: Maximum number of tries.
    """
    with wrap_errors():
        execute(
            "UPDATE practice_try SET track = NULL WHERE learner = ? AND track IS NOT NULL AND id"
            " NOT IN (SELECT id FROM practice_try WHERE learner = ? AND track IS NOT NULL"
            " ORDER BY id DESC LIMIT ?)",
            (learner, learner, tracks),
        )
        execute(
            "DELETE FROM practice_try WHERE learner = ? AND id NOT IN (SELECT id FROM practice_try"
            " WHERE learner = ? ORDER BY id DESC LIMIT ?)",
            (learner, learner, most),
        )


def set_removed(learner: str, number: int, moment: str | None) -> None:
    """Remove a try of a learner, or restore it.

    Args:
        learner: The owner.
        number: Number of the try.
        moment: Time of the removal, or None.
    """
    with wrap_errors():
        PracticeTry.update(removed_at=moment).where(
            (PracticeTry.id == number) & (PracticeTry.learner == learner)
        ).execute()


def delete_all(learner: str) -> int:
    """Delete everything of a learner for good, and return the number of tries.

    Args:
        learner: The owner.
    """
    with wrap_errors():
        Drilled.delete().where(Drilled.learner == learner).execute()
        return int(PracticeTry.delete().where(PracticeTry.learner == learner).execute())


def transfer(before: str, after: str) -> None:
    """Give everything of one owner to another.

    Args:
        before: The owner until now.
        after: The new owner.
    """
    with wrap_errors():
        for table in (PracticeTry, Drilled):
            table.update(learner=after).where(table.learner == before).execute()


def list_attempts(drill: str, learner: str, hand: str, maximum: int) -> list[Drilled]:
    """Return the last attempts of a drill, the newest first, without removed ones.

    Args:
        drill: The drill.
        learner: The owner.
        hand: Initials whose attempts from before owners are listed too, or "".
        maximum: Maximum number.
    """
    with wrap_errors():
        attempts = Drilled.select().where(
            (Drilled.drill == drill) & _belongs(learner, hand) & Drilled.removed_at.is_null()
        )
        return list(attempts.order_by(Drilled.id.desc()).limit(maximum))


def set_attempt_removed(learner: str, hand: str, number: int, moment: str | None) -> None:
    """Remove an attempt, or restore it.

    Args:
        learner: The owner.
        hand: Initials whose attempts from before owners count too, or "".
        number: Number of the attempt.
        moment: Time of the removal, or None.
    """
    with wrap_errors():
        Drilled.update(removed_at=moment).where(
            (Drilled.id == number) & _belongs(learner, hand)
        ).execute()


def _belongs(learner: str, hand: str) -> peewee.Expression:
    owned = Drilled.learner == learner
    if not hand:
        return owned
    return owned | (Drilled.learner.is_null() & (Drilled.hand == hand))
