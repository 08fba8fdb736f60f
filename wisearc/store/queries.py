"""Queries of the library.

Each list is one query of any length, without plans.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from peewee import fn

from ..core.errors import shorten
from .database import execute, wrap_errors
from .errors import Missing, NotAllowed
from .models import NUMBER_FORM, Procedure, Revision, RunRow, ShopSchool

MAX_NUMBER = 999_999


def parse_number(label: str) -> int:
    """Return the number in "P-0003".

    Raises:
        Missing: The label is not one.
    """
    digits = label.upper().removeprefix("P-")
    if not digits.isascii() or not digits.isdigit() or len(digits) > 6:
        raise Missing(f"“{shorten(label)}” is not a procedure number. Example: P-0003.")
    return int(digits)


def find_procedure(number: int) -> Procedure | None:
    """Return a procedure by its number, or None."""
    with wrap_errors():
        return Procedure.get_or_none(Procedure.number == number)


def get_procedure(label: str) -> Procedure:
    """Return a procedure by its label.

    Raises:
        Missing: The procedure does not exist.
    """
    number = parse_number(label)
    procedure = find_procedure(number)
    if procedure is None:
        raise Missing(f"There is no procedure {NUMBER_FORM.format(number)} in this library.")
    return procedure


def get_revision(label: str, letter: str | None = None) -> Revision:
    """Return a revision: by letter, or the newest active one, or else the newest.

    Args:
        label: The procedure.
        letter: The letter, or None.

    Raises:
        Missing: The revision does not exist.
    """
    owner = get_procedure(label)
    with wrap_errors():
        query = Revision.select().where(Revision.procedure == owner)
        newest = query.order_by(
            Revision.removed_at.is_null().desc(),
            fn.LENGTH(Revision.letter).desc(),
            Revision.letter.desc(),
        )
        revision: Revision | None = (
            query.where(Revision.letter == letter) if letter else newest
        ).first()
    if revision is None:
        raise Missing(f"{owner.label} has no revision {shorten(letter or 'A')}.")
    revision.procedure = owner
    return revision


def list_revisions(owner: Procedure) -> list[Revision]:
    """Return every revision of a procedure, oldest first."""
    with wrap_errors():
        in_order = Revision.select().order_by(fn.LENGTH(Revision.letter), Revision.letter)
        return list(in_order.where(Revision.procedure == owner))


def list_revision_heads(owner: Procedure) -> list[Revision]:
    """Return every revision of a procedure without its contents, oldest first."""
    heads = (
        Revision.id,
        Revision.letter,
        Revision.status,
        Revision.title,
        Revision.changed_at,
        Revision.proved_at,
        Revision.removed_at,
        Revision.signatures,
        Revision.taken_as,
        Revision.received_from,
    )
    with wrap_errors():
        in_order = Revision.select(*heads).order_by(fn.LENGTH(Revision.letter), Revision.letter)
        return list(in_order.where(Revision.procedure == owner))


def get_last_letter(owner: Procedure) -> str:
    """Return the last letter of a procedure, with archived revisions."""
    return list_revisions(owner)[-1].letter


def list_numbered_revisions(letter: str, label: str) -> list[Revision]:
    """Return the revisions of a letter with a number, each with its procedure.

    Revisions imported from a file with the number count too.

    Args:
        letter: The letter.
        label: The number.
    """
    # Two queries with an index each. Combined, they would scan the complete library.
    with wrap_errors():
        join = Revision.select(Revision, Procedure).join(Procedure)
        revisions = list(
            join.where((Procedure.number == parse_number(label)) & (Revision.letter == letter))
        )
        return revisions + list(
            join.where((Revision.taken_as == label) & (Revision.letter == letter))
        )


def has_runs(of: Revision) -> bool:
    """Return whether a revision has runs, also voided ones."""
    return bool(RunRow.select().where(RunRow.revision == of).exists())


def measure_room(of: Revision) -> tuple[int, int]:
    """Return the number of runs of a revision, and their size, bytes."""
    sums = RunRow.select(
        fn.COUNT(RunRow.id), fn.COALESCE(fn.SUM(fn.LENGTH(RunRow.record.cast("BLOB"))), 0)
    )
    with wrap_errors():
        totals: tuple[int, int] = sums.where(RunRow.revision == of).tuples().first()
        return totals


def add_runs(rows: Sequence[Mapping[str, Any]]) -> None:
    """Add saved runs."""
    for first in range(0, len(rows), 500):
        RunRow.insert_many(rows[first : first + 500]).execute()


def list_runs(of: Revision, skip: int = 0, maximum: int = -1) -> list[RunRow]:
    """Return the runs of a revision, oldest first, with voided ones.

    Args:
        of: The revision.
        skip: Number to skip.
        maximum: Maximum number.
    """
    with wrap_errors():
        in_order = RunRow.select().where(RunRow.revision == of).order_by(RunRow.made_on, RunRow.id)
        return list(in_order.offset(skip).limit(maximum) if skip or maximum >= 0 else in_order)


def list_verifying_runs(of: Revision, maximum: int) -> list[RunRow]:
    """Return the run that verified a revision and its last valid good runs, oldest first.

    Args:
        of: The revision.
        maximum: Maximum number.
    """
    with wrap_errors():
        good = RunRow.select().where(
            (RunRow.revision == of) & RunRow.good & RunRow.voided_at.is_null()
        )
        newest = (RunRow.made_on.desc(), RunRow.id.desc())
        runs = list(good.order_by(*newest).limit(maximum))
        # A separate query: an order with the verifying run first would sort every run.
        verifying = good.where(RunRow.id == of.verifying_run).first()
    if verifying is not None and verifying not in runs:
        runs[maximum - 1 :] = [verifying]
    return sorted(runs, key=lambda run: (run.made_on, run.id))


def find_position(run: RunRow) -> int:
    """Return the position of a run among those of its revision, from 0."""
    with wrap_errors():
        before = (RunRow.made_on < run.made_on) | (
            (RunRow.made_on == run.made_on) & (RunRow.id < run.id)
        )
        return int(RunRow.select().where((RunRow.revision == run.revision.id) & before).count())


def list_good_runs(of: Revision) -> list[RunRow]:
    """Return the valid good runs of a revision, the first recorded first."""
    with wrap_errors():
        good = RunRow.select().where(
            (RunRow.revision == of) & RunRow.good & RunRow.voided_at.is_null()
        )
        return list(good.order_by(RunRow.kept_at, RunRow.id))


def find_verifying_run(of: Revision) -> RunRow | None:
    """Return the run that verified a revision, or None."""
    if of.verifying_run is None:
        return None
    with wrap_errors():
        run: RunRow | None = RunRow.get_or_none(RunRow.id == of.verifying_run)
        return run


def measure_run_counts(of: Revision) -> tuple[int, int, int]:
    """Return the numbers of valid runs, of good ones and of photographs of a revision.

    Args:
        of: The revision.
    """
    with wrap_errors():
        row = execute(
            "SELECT count(*), coalesce(sum(good), 0), coalesce(sum(CASE WHEN record LIKE"
            " '%\"photographs\"%sha256%' THEN json_array_length(record, '$.photographs') END), 0)"
            " FROM run WHERE revision_id = ? AND voided_at IS NULL",
            (of.id,),
        ).fetchone()
    return int(row[0]), int(row[1]), int(row[2])


def list_last_valid_runs(of: Revision, maximum: int) -> list[RunRow]:
    """Return the last valid runs of a revision, oldest first.

    Args:
        of: The revision.
        maximum: Maximum number.
    """
    with wrap_errors():
        valid = RunRow.select().where((RunRow.revision == of) & RunRow.voided_at.is_null())
        return list(valid.order_by(RunRow.made_on.desc(), RunRow.id.desc()).limit(maximum))[::-1]


def list_photographed_runs(of: Revision) -> list[RunRow]:
    """Return the valid runs of a revision that have photographs, the newest first.

    Args:
        of: The revision.
    """
    with wrap_errors():
        photographed = RunRow.record.cast("TEXT").contains('"photographs": [{')
        runs = RunRow.select().where(
            (RunRow.revision == of) & RunRow.voided_at.is_null() & photographed
        )
        return list(runs.order_by(RunRow.made_on.desc(), RunRow.id.desc()))


def list_measured_runs(maximum: int) -> list[RunRow]:
    """Return the last valid runs with a measured photograph, the newest first, with revisions.

    Args:
        maximum: The maximum number.
    """
    with wrap_errors():
        measured = RunRow.record.cast("TEXT").contains('"straightened"')
        runs = RunRow.select(RunRow, Revision).join(Revision)
        chosen = runs.where(RunRow.voided_at.is_null() & measured)
        return list(chosen.order_by(RunRow.made_on.desc(), RunRow.id.desc()).limit(maximum))


def list_recorded_runs(owner: Procedure, maximum: int) -> list[RunRow]:
    """Return the last recorded runs of a procedure, also voided ones, each with its revision.

    Args:
        owner: The procedure.
        maximum: Maximum number.
    """
    with wrap_errors():
        joined = RunRow.select(RunRow, Revision).join(Revision).where(Revision.procedure == owner)
        return list(joined.order_by(RunRow.kept_at.desc(), RunRow.id.desc()).limit(maximum))


def list_waiting() -> list[Revision]:
    """Return the revisions that wait for signatures, each with its procedure."""
    with wrap_errors():
        joined = Revision.select(Revision, Procedure).join(Procedure)
        return list(joined.where(Revision.status == "waiting").order_by(Revision.id))


def get_run(of: Revision, number: int) -> RunRow:
    """Return a run of a revision by its number.

    Args:
        of: The revision.
        number: The number.

    Raises:
        Missing: The run does not exist.
    """
    with wrap_errors():
        run = RunRow.get_or_none((RunRow.revision == of) & (RunRow.id == number))
    if run is None:
        raise Missing(f"{of.procedure.label} {of.letter} has no such run.")
    return run


def get_any_run(number: int) -> RunRow:
    """Return a run by its number, with its revision and procedure.

    Raises:
        Missing: The run does not exist.
    """
    with wrap_errors():
        joined = (
            RunRow.select(RunRow, Revision, Procedure)
            .join(Revision)
            .join(Procedure)
            .where(RunRow.id == number)
        )
        run: RunRow | None = joined.first()
    if run is None:
        raise Missing("There is no such run.")
    return run


def run_sent(of: Revision, once: str) -> RunRow | None:
    """Return the run of a procedure with a form token, or None.

    Args:
        of: A revision of the procedure.
        once: The token.
    """
    if not once:
        return None
    with wrap_errors():
        sent = (RunRow.once >= f"{once}.") & (RunRow.once < f"{once}/")
        runs = RunRow.select(RunRow, Revision).join(Revision)
        run: RunRow | None = runs.where((Revision.procedure == of.procedure) & sent).first()
        return run


def find_last_run(of: Revision) -> RunRow | None:
    """Return the last recorded run of a revision that is not void, or None."""
    with wrap_errors():
        valid_runs = RunRow.select().where((RunRow.revision == of) & RunRow.voided_at.is_null())
        run: RunRow | None = valid_runs.order_by(RunRow.id.desc()).first()
        return run


def list_procedure_runs(owner: Procedure, maximum: int) -> list[tuple[Revision, RunRow]]:
    """Return the last valid runs of a procedure, of every revision, oldest first.

    Args:
        owner: The procedure.
        maximum: Maximum number.
    """
    with wrap_errors():
        joined = (
            RunRow.select(RunRow, Revision)
            .join(Revision)
            .where((Revision.procedure == owner) & RunRow.voided_at.is_null())
        )
        runs = list(joined.order_by(RunRow.made_on.desc(), RunRow.id.desc()).limit(maximum))[::-1]
    return [(run.revision, run) for run in runs]


def list_last_runs(maximum: int) -> list[RunRow]:
    """Return the last recorded valid runs, the newest first."""
    with wrap_errors():
        joined = RunRow.select(RunRow, Revision, Procedure).join(Revision).join(Procedure)
        return list(
            joined.where(RunRow.voided_at.is_null()).order_by(RunRow.id.desc()).limit(maximum)
        )


def list_revisions_by_id(ids: Sequence[int]) -> list[Revision]:
    """Return revisions by id, in the given order, each with its procedure."""
    place = {number: i for i, number in enumerate(ids)}
    with wrap_errors():
        revisions = (
            Revision.select(Revision, Procedure).join(Procedure).where(Revision.id << list(ids))
        )
        return sorted(revisions, key=lambda revision: place[revision.id])


def list_ids_in_order() -> list[int]:
    """Return the id of every revision, in the order of number and letter."""
    with wrap_errors():
        rows = (
            Revision.select(Revision.id)
            .join(Procedure)
            .order_by(Procedure.number, fn.LENGTH(Revision.letter), Revision.letter)
        )
        ids: Any = rows.tuples()
        return [row[0] for row in ids]


def find_next_number(after: int = 0) -> int:
    """Return the next free number: after the highest, or the first gap if there is none.

    Args:
        after: A number to exceed, if possible.

    Raises:
        NotAllowed: No number is free.
    """
    max_number = max(after, Procedure.select(fn.MAX(Procedure.number)).scalar() or 0)
    if max_number < MAX_NUMBER:
        return max_number + 1
    other = Procedure.alias()
    gaps = Procedure.select(fn.MIN(Procedure.number)).where(
        ~fn.EXISTS(other.select().where(other.number == Procedure.number + 1))
        & (Procedure.number < MAX_NUMBER)
    )
    free = 0 if find_procedure(1) is None else gaps.scalar()
    if free is None:
        raise NotAllowed(f"The library is full: every number up to P-{MAX_NUMBER} is in use.")
    return free + 1


def get_library_kind() -> str:
    """Return the kind of the library: "demo", "own" for one created next to it, or ""."""
    with wrap_errors():
        return str(execute("SELECT kind FROM book").fetchone()[0])


def set_library_kind(kind: str) -> None:
    """Set the kind of the library."""
    execute("UPDATE book SET kind = ?", (kind,))


def is_empty() -> bool:
    """Return whether the library has no procedures."""
    with wrap_errors():
        return not Procedure.select().exists()


def load_chosen_approaches() -> dict[str, str]:
    """Return the approaches of the shop by question."""
    with wrap_errors():
        return {row.key: row.value for row in ShopSchool.select()}


def set_approach(key: str, value: str) -> None:
    """Set an approach of the shop.

    Args:
        key: The question.
        value: The approach.
    """
    ShopSchool.insert(key=key, value=value).on_conflict_replace().execute()


def find_referenced_files() -> set[str]:
    """Return the SHA-256 of each file of a run, also of voided, corrected and unfinished runs.

    Raises:
        StoreError: The library cannot be read.
    """
    hashes: set[str] = set()
    with wrap_errors():
        for table, column in (("run", "record"), ("run", "corrections"), ("at_arc", "log")):
            # LIKE skips rows without files, which is much faster.
            hashes |= {
                str(sha)
                for (sha,) in execute(
                    f"SELECT node.atom FROM {table}, json_tree({table}.{column}) AS node"
                    f" WHERE {table}.{column} LIKE '%sha256%' AND node.key = 'sha256'"
                )
            }
        # A file that waits in the inbox has no run yet.
        waiting = "SELECT sha256 FROM inbox WHERE run_id IS NULL AND dropped_at IS NULL"
        hashes |= {str(sha) for (sha,) in execute(waiting)}
    return hashes
