"""Reading the book. Each list is one query, whatever its length."""

from __future__ import annotations

from typing import Any

from peewee import JOIN, fn

from .database import translated
from .errors import Missing
from .models import NUMBER_FORM, Procedure, Revision, Run


def parse_number(label: str) -> int:
    """The number in "P-0003". Raises Missing."""
    digits = label.upper().removeprefix("P-")
    if not digits.isascii() or not digits.isdigit() or len(digits) > 9:
        raise Missing(f"“{label}” is not the number of a procedure; numbers look like P-0003.")
    return int(digits)


def procedure(label: str) -> Procedure:
    """A procedure by its label. Raises Missing."""
    number = parse_number(label)
    with translated():
        found = Procedure.get_or_none(Procedure.number == number)
    if found is None:
        raise Missing(f"There is no procedure {NUMBER_FORM.format(number)} in this book.")
    return found  # type: ignore[no-any-return]


def revision(label: str, letter: str | None = None) -> Revision:
    """A revision: by letter, or the newest. Raises Missing."""
    owner = procedure(label)
    with translated():
        query = Revision.select().where(Revision.procedure == owner)
        query = (
            query.where(Revision.letter == letter)
            if letter
            else query.order_by(fn.LENGTH(Revision.letter).desc(), Revision.letter.desc())
        )
        found = query.first()
    if found is None:
        raise Missing(f"{owner.label} has no revision {letter}.")
    found.procedure = owner
    return found  # type: ignore[no-any-return]


def revisions(owner: Procedure) -> list[Revision]:
    """Every revision of a procedure, oldest first."""
    with translated():
        return list(
            Revision.select().where(Revision.procedure == owner).order_by(fn.LENGTH(Revision.letter), Revision.letter)
        )


def runs(of: Revision) -> list[Run]:
    """The runs of a revision, oldest first."""
    with translated():
        return list(Run.select().where(Run.revision == of).order_by(Run.made_on, Run.id))


def book(search: str = "", status: str = "") -> list[dict[str, Any]]:
    """The newest standing revision of every procedure, and its drafts, with counts of runs; one query.

    Parameters: search, words of a title, number, metal or joint; status, one of the states or "".
    """
    good = fn.SUM(Run.good)
    query = (
        Revision.select(
            Revision, Procedure, fn.COUNT(Run.id).alias("run_count"), fn.COALESCE(good, 0).alias("good_count")
        )
        .join(Procedure)
        .switch(Revision)
        .join(Run, JOIN.LEFT_OUTER)
        .group_by(Revision.id)
        .order_by(Procedure.number.desc(), fn.LENGTH(Revision.letter).desc(), Revision.letter.desc())
    )
    if status:
        query = query.where(Revision.status == status)
    for word in search.split():
        query = query.where(
            Revision.title.contains(word)
            | Revision.joint.cast("TEXT").contains(word)
            | (fn.PRINTF("P-%04d", Procedure.number).contains(word))
        )
    with translated():
        return [{"revision": r, "runs": r.run_count, "good": r.good_count} for r in query]


def next_number() -> int:
    """The next free number."""
    return (Procedure.select(fn.MAX(Procedure.number)).scalar() or 0) + 1


def is_empty() -> bool:
    """Whether the book holds nothing yet."""
    with translated():
        return not Procedure.select().exists()
