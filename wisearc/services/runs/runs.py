"""Runs.

Record, correction, voiding; verification of a draft, and drafts from the settings of a run.
"""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.run.run import (
    MAX_NAME,
    MAX_RUNS,
    MAX_RUNS_BYTES,
    NO_INITIALS,
    Purge,
    Run,
    check_not_in_future,
    list_run_figures,
    write_run,
)
from ...core.run.verification import (
    Outside,
    OutsideBands,
    build_joint_as_done,
    check_coupon,
    check_good,
    check_second_inspection,
    find_outside,
)
from ...core.schema import checks
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...formats.run_json import measure_size, run_record
from ...store import purges, queries, record_acts
from ...store.database import open_transaction
from ...store.errors import EditConflict, NotAllowed, StoreError
from ...store.models import Revision, RunRow
from ..clock import get_latest_day, get_now
from ..form_tokens import build_token, find_sent_before
from ..people.people import normalise_initials
from ..planning.planner import cached_plan
from ..procedures.library_search import list_record
from ..procedures.procedures import check_not_archived, get_plan, save_next_draft
from ..procedures.states import (
    DRAFT,
    PROVED,
    SUPERSEDED,
    accept_good_run,
    update_verifying_run,
)
from ..purge.purge_run import build_record

# Kinds of acts that can be undone.
RECORDED, VOIDED, CORRECTED = "recorded", "voided", "corrected"
# A correction cannot change these: author, log, and changes made from the run.
FIXED_FIELDS = (
    "who",
    "as_done",
    "photographs",
    "purge",
    "arc",
    "arc_log",
    "left_band",
    "look",
    "coupon",
    "seen",
    "reading",
    "repairs",
    "joint",
)


def record_run(
    label: str,
    letter: str,
    run: Run,
    once: str = "",
    at: Callable[[], str] = get_now,
    purge: int = 0,
) -> tuple[RunRow, bool]:
    """Record a run of a revision.

    A good run verifies a draft.

    Args:
        label: The procedure.
        letter: Revision letter.
        run: The run.
        once: Token of the form.
        at: Current time, UTC.
        purge: Number of the purge of the run, or 0.

    Returns:
        The run, and whether it verified the revision.

    Raises:
        InputError: A good run cannot verify.
    """
    token, moment = build_token(once, write_run(run)), at()
    run = replace(run, purge=_purge_taken(purge) or run.purge)
    with open_transaction():
        if done := find_sent_before(RunRow, token):
            return done, False
        revision = queries.get_revision(label, letter)
        if revision.status == SUPERSEDED:
            raise NotAllowed(
                f"{label} {letter} is superseded. Record the run with the newest revision."
            )
        check_not_archived(revision)
        record = _build_record(revision, run)
        check_not_in_future(run, get_latest_day(moment))
        if run.coupon:
            check_coupon(run, get_plan(revision))
        if run.good:
            check_good(run, get_plan(revision), revision.bands)
        kept = RunRow.create(
            revision=revision,
            made_on=run.when,
            record=record,
            good=run.good,
            once=token or None,
            kept_at=moment,
        )
        if run.purge and purge:
            purges.change_purge(purge, run=kept)
        proves = run.good and revision.status == DRAFT and accept_good_run(revision, kept, at)
        list_record(revision, run=kept)
        text = f"Run of {run.when} by {run.who} was recorded with {label} {letter}."
        record_acts.add_act(RECORDED, revision, text, moment, kept)
        return kept, proves


def _purge_taken(number: int) -> Purge | None:
    """Return the summary of a finished purge that belongs to no other run."""
    purge = purges.purge(number) if number else None
    if purge is None or purge.ended is None or getattr(purge, "run_id", None) is not None:
        return None
    return build_record(purge)


def _build_record(revision: Revision, run: Run) -> dict[str, Json]:
    """Return the record of a new run. Raises NotAllowed if the revision has no room for it."""
    room = calculate_room_bytes(revision)
    record = run_record(run, revision.procedure.label, revision.letter)
    if measure_size(record) > room:
        raise build_full_error(revision)
    return record


def calculate_room_bytes(revision: Revision, new_run: bool = True) -> int:
    """Calculate the free space of a revision for runs, bytes. Its page and file stay usable.

    Args:
        revision: The revision.
        new_run: Whether a run is added; False for a change of a recorded run.
    """
    runs, size = queries.measure_room(revision)
    return 0 if new_run and runs >= MAX_RUNS else MAX_RUNS_BYTES - size


def build_full_error(revision: Revision) -> NotAllowed:
    """Return the error for a revision that has no room for a run.

    Args:
        revision: The revision.
    """
    name, (runs, _) = (
        f"{revision.procedure.label} {revision.letter}",
        queries.measure_room(revision),
    )
    return NotAllowed(
        f"{name} has {runs} runs, which is the maximum of one revision. Save it as a "
        "new draft and continue there."
    )


def void_run(
    label: str, letter: str, number: int, who: str, at: Callable[[], str] = get_now
) -> RunRow:
    """Void a run that was recorded by mistake.

    It stays readable and no longer counts.

    Args:
        label: The procedure.
        letter: Revision letter.
        number: Number of the run.
        who: Initials of the person.
        at: Current time, UTC.

    Raises:
        InputError: The initials are missing.
        NotAllowed: Only this run verifies the revision.
    """
    signed = checks.check_line("who", who.strip(), MAX_NAME)
    if not signed:
        raise InputError("who", "", NO_INITIALS)
    with open_transaction():
        revision = queries.get_revision(label, letter)
        run = queries.get_run(revision, number)
        if run.voided_at is None:
            if (
                revision.status in (PROVED, SUPERSEDED)
                and run.good
                and queries.list_verifying_runs(revision, 2) == [run]
            ):
                text = (
                    "It cannot be voided. Record another good run first, or save a change as the "
                    "next revision."
                )
                raise NotAllowed(f"This run verifies {label} {letter}. {text}")
            _set_voided(revision, run, at(), signed)
            text = f"Run of {run.made_on} was voided by {signed}."
            record_acts.add_act(VOIDED, revision, text, at(), run)
        return run


def withdraw_run(
    revision: Revision, number: int, who: str, at: Callable[[], str] = get_now
) -> None:
    """Void a run that was just recorded, also one that verifies its revision.

    The revision and the one before it get back their states.

    Args:
        revision: The revision.
        number: Number of the run.
        who: Initials of the person.
        at: Current time, UTC.
    """
    with open_transaction():
        run = queries.get_run(revision, number)
        if run.voided_at is None:
            _set_voided(revision, run, at(), who)


def restore_run(label: str, letter: str, number: int, at: Callable[[], str] = get_now) -> RunRow:
    """Undo a voiding.

    Args:
        label: The procedure.
        letter: Revision letter.
        number: Number of the run.
        at: Current time, UTC.
    """
    with open_transaction():
        revision = queries.get_revision(label, letter)
        run = queries.get_run(revision, number)
        if run.voided_at is not None:
            _set_voided(revision, run, None, None)
            if run.good and revision.status == DRAFT:
                accept_good_run(revision, run, at)
                list_record(revision, run=run)
        return run


def _set_voided(revision: Revision, run: RunRow, moment: str | None, who: str | None) -> None:
    run.voided_at, run.voided_by = moment, who
    run.save(only=[RunRow.voided_at, RunRow.voided_by])
    update_verifying_run(revision)
    list_record(revision, run=run)


def correct(
    label: str,
    letter: str,
    number: int,
    changed: Run,
    who: str,
    at: Callable[[], str] = get_now,
    known: int | None = None,
) -> RunRow:
    """Correct a run for the person who recorded it. The earlier values stay in its history.

    Args:
        label: The number of the procedure, such as "P-0001".
        letter: The revision.
        number: The number of the run.
        changed: The corrected run.
        who: The initials of the person who corrects it.
        at: Returns the time of the correction.
        known: Number of corrections that the page showed, or None for all.

    Returns:
        The corrected run.

    Raises:
        InputError: The initials are missing.
        EditConflict: The run was corrected after the user read it.
        NotAllowed: Another person recorded the run, the run is void, or the corrected run is marked
            good and cannot verify its revision.
    """
    signed = checks.check_line("who", who.strip(), MAX_NAME)
    if not signed:
        raise InputError("who", "", NO_INITIALS)
    moment = at()
    with open_transaction():
        revision = queries.get_revision(label, letter)
        run = queries.get_run(revision, number)
        before = run.document
        if normalise_initials(signed) != normalise_initials(before.who):
            raise NotAllowed(
                f"{before.who} recorded this run and can correct it. Another person can void "
                "it and record a new run."
            )
        if run.voided_at:
            raise NotAllowed("This run is void. Undo that first.")
        if known is not None and known != len(run.corrections):
            raise EditConflict(
                "Someone corrected this run after you opened it. Your entries are still on this"
                " page, with the changed values beside them. Check them, then save again."
            )
        after = replace(changed, **{key: getattr(before, key) for key in FIXED_FIELDS})
        # After a correction to good, the run was welded as planned.
        after = replace(after, as_done=before.as_done and not after.good)
        check_not_in_future(after, get_latest_day(moment))
        was = _list_changes(before, after)
        if not was:
            return run
        # An older minor version is judged by its rules.
        minor = run.minor
        if after.good:
            try:
                check_good(after, get_plan(revision), revision.bands, minor)
            except InputError as error:
                text = "You can also correct the entries."
                raise NotAllowed(f"Not saved: {error.sentence} {text}") from error
        run.record = {**run_record(after, label, letter), "minor": minor}
        run.made_on = after.when
        run.corrections = [*run.corrections, {"when": moment, "who": signed, "was": was}]
        run.good = after.good
        before_record = RunRow.get_by_id(run.id).record
        run.save(only=[RunRow.record, RunRow.made_on, RunRow.corrections, RunRow.good])
        text = f"Run of {after.when} was corrected by {signed}."
        record_acts.add_act(CORRECTED, revision, text, moment, run, before_record)
        if run.good and revision.status == DRAFT:
            accept_good_run(revision, run, at)
        else:
            update_verifying_run(revision)
        list_record(revision, run=run)
        return run


def _list_changes(before: Run, after: Run) -> dict[str, Json]:
    """Return the earlier values of changed fields, {key or part.key: value, None for nothing}."""
    left, other = _flatten_run(before), _flatten_run(after)
    return {key: left.get(key) for key in {**left, **other} if left.get(key) != other.get(key)}


def _flatten_run(run: Run) -> dict[str, Json]:
    """Return the fields of a run that can be corrected, by key, without empty ones."""
    flat: dict[str, Json] = {
        "when": run.when,
        "machine": run.machine,
        "notes": run.notes,
        "front": run.front.colour,
        "back": run.back.colour,
        "faults": list(run.faults or ()),
        "good": run.good,
    }
    figures = ((f"{f.part}.{f.key}", f.of(run)) for f in list_run_figures())
    fields = flat | {key: value for key, value in figures if value is not None}
    return {key: value for key, value in fields.items() if value not in ("", [])}


def keep_as_done(
    label: str,
    letter: str,
    run: Run,
    shop: Shop,
    once: str = "",
    at: Callable[[], str] = get_now,
    purge: int = 0,
    is_checked: bool = False,
) -> Revision:
    """Record a good run that differs from its plan, and save its settings as the next draft.

    The run belongs to its revision. The draft has the rod, cup, gas, pulse and settings of the run,
    and needs another run for verification. A run that agrees with the plan is recorded as good
    after the second inspection.

    Args:
        label: The procedure.
        letter: Letter of the revision of the run.
        run: The run.
        shop: The shop that the draft is planned in.
        once: Token of the form.
        at: Returns the time.
        purge: Number of the purge of the run, or 0.
        is_checked: Whether the user checked the cautions of the plan again.

    Returns:
        The draft, or the revision of the run.

    Raises:
        InputError: The run is not good, or its cautions were not checked. Nothing is saved.
    """
    with open_transaction():
        revision = queries.get_revision(label, letter)
        plan = get_plan(revision)
        good = replace(run, good=True, as_done=False)
        try:
            check_good(good, plan, revision.bands)
        except OutsideBands:
            record_run(label, letter, replace(run, good=False, as_done=True), once, at, purge)
        else:
            check_second_inspection(plan, True, is_checked)
            record_run(label, letter, good, once, at, purge)
            return queries.get_revision(label, letter)
        joint = build_joint_as_done(
            plan, revision.bands, run, lambda joint: cached_plan(joint, shop)
        )
        return save_next_draft(label, joint, shop, f"{once}-done" if once else "", at, True)


def list_outside(revision: Revision, plan: Plan, run: Run) -> list[Outside]:
    """Return the figures of a run outside the ranges of its revision.

    Args:
        revision: The revision.
        plan: Its plan.
        run: The run.
    """
    return find_outside(run, revision.bands, plan)


def get_run(revision: Revision, number: int) -> RunRow:
    """Return a run of a revision.

    Args:
        revision: The revision.
        number: Number of the run.

    Raises:
        Missing: The run does not exist.
    """
    return queries.get_run(revision, number)


def find_last_run(revision: Revision) -> Run | None:
    """Return the last recorded run of a revision that is not void, or None."""
    run = queries.find_last_run(revision)
    return run.document if run else None


def measured_bows_mm(procedure: str) -> list[float]:
    """Return the bows measured on the runs of a revision, such as "P-0003 A", mm, or none."""
    label, _, letter = procedure.partition(" ")
    try:
        runs = queries.list_runs(queries.get_revision(label, letter or None))
    except StoreError:
        return []
    bows = (run.document.measured.bow_mm for run in runs if not run.voided_at)
    return [float(bow) for bow in bows if bow is not None]
