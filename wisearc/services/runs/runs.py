"""Runs: written down, corrected, struck out; what proves a draft, and a draft made of what was
really done.
"""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.run.inspection import Inspection
from ...core.run.run import (
    MAX_NAME,
    MAX_RUNS,
    MAX_RUNS_BYTES,
    NO_INITIALS,
    Purge,
    Run,
    check_not_to_come,
    list_run_figures,
    write_run,
)
from ...core.run.saved_reading import SavedReading
from ...core.run.verification import (
    Outside,
    OutsideBands,
    build_joint_as_done,
    check_coupon,
    check_good,
    check_second_look,
    find_outside,
)
from ...core.schema import checks
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...formats.run_json import measure_size, run_record
from ...store import purges, queries
from ...store.database import open_transaction
from ...store.errors import NotAllowed, StoreError
from ...store.models import Revision, RunRow
from ..planning.planning import cached_plan
from ..procedures.finding import list_record
from ..procedures.procedures import (
    DRAFT,
    PROVED,
    SUPERSEDED,
    build_token,
    check_standing,
    find_sent_before,
    get_latest_day,
    get_now,
    get_plan,
    save_next_draft,
)
from ..purge.purge_run import record_of

# what a correction cannot change: who ran it, what was logged and tried, what was made of it
MADE = (
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
    "joint",
)
# what a closer look adds to a run
LOOKED = ("seen", "reading")


def record_run(
    label: str,
    letter: str,
    run: Run,
    once: str = "",
    at: Callable[[], str] = get_now,
    purge: int = 0,
) -> tuple[RunRow, bool]:
    """Take down a run of a revision; a good one proves a draft.

    Parameters: purge, the number of the purge that goes with it, or 0. Returns the run, and
    whether it proved the revision. Raises InputError for good where the run cannot prove.
    """
    token, moment = build_token(once, write_run(run)), at()
    run = replace(run, purge=_purge_taken(purge) or run.purge)
    with open_transaction():
        if done := find_sent_before(RunRow, token):
            return done, False
        standing = queries.get_revision(label, letter)
        if standing.status == SUPERSEDED:
            raise NotAllowed(
                f"{label} {letter} is superseded. Record the run with the newest revision."
            )
        check_standing(standing)
        record = _build_record(standing, run)
        check_not_to_come(run, get_latest_day(moment))
        if run.coupon:
            check_coupon(run, get_plan(standing))
        if run.good:
            check_good(run, get_plan(standing), standing.bands)
        kept = RunRow.create(
            revision=standing,
            made_on=run.when,
            record=record,
            good=run.good,
            once=token or None,
            kept_at=moment,
        )
        if run.purge and purge:
            purges.change_purge(purge, run=kept)
        proves = run.good and standing.status == DRAFT
        if proves:
            _verify_draft(standing, at)
        list_record(standing, run=kept)
        return kept, proves


def _purge_taken(number: int) -> Purge | None:
    """What a purge came to, where it is done and was not written down with another run."""
    found = purges.purge(number) if number else None
    if found is None or found.ended is None or getattr(found, "run_id", None) is not None:
        return None
    return record_of(found)


def _build_record(standing: Revision, run: Run) -> dict[str, Json]:
    """Return the record of a new run. Raises NotAllowed if the revision has no room for it."""
    room = _calculate_room_bytes(standing)
    record = run_record(run, standing.procedure.label, standing.letter)
    if measure_size(record) > room:
        raise _build_full_error(standing)
    return record


def _calculate_room_bytes(revision: Revision, new_run: bool = True) -> int:
    """Calculate the free space of a revision for runs, bytes. Its page and file stay usable.

    Args:
        revision: The revision.
        new_run: Whether a run is added; False for a change of a recorded run.
    """
    runs, size = queries.measure_room(revision)
    return 0 if new_run and runs >= MAX_RUNS else MAX_RUNS_BYTES - size


def _build_full_error(standing: Revision) -> NotAllowed:
    """Return the error for a revision that has no room for a run."""
    name, (runs, _) = (
        f"{standing.procedure.label} {standing.letter}",
        queries.measure_room(standing),
    )
    return NotAllowed(
        f"{name} has {runs} runs, which is the maximum of one revision. Save it as a "
        "new draft and continue there."
    )


def _verify_draft(draft: Revision, at: Callable[[], str]) -> None:
    for before in queries.list_revisions(draft.procedure):
        if before.status == PROVED:
            before.procedure, before.status = draft.procedure, SUPERSEDED
            before.save(only=[Revision.status])
            list_record(before)
    draft.status, draft.proved_at = PROVED, at()
    draft.save(only=[Revision.status, Revision.proved_at])


def keep_reading(
    label: str, letter: str, number: int, seen: Inspection, reading: SavedReading | None
) -> RunRow:
    """Keep with a run what was seen of it on a closer look, and what it was read as. Raises
    NotAllowed.
    """
    with open_transaction():
        standing = queries.get_revision(label, letter)
        run = queries.run_of(standing, number)
        if run.voided_at:
            raise NotAllowed("This run is void. Undo that first.")
        told = write_run(replace(run.document, seen=seen, reading=reading))
        record = {key: value for key, value in run.record.items() if key not in LOOKED}
        record |= {key: told[key] for key in LOOKED if key in told}
        if measure_size(record) - measure_size(run.record) > _calculate_room_bytes(
            standing, new_run=False
        ):
            raise _build_full_error(standing)
        run.record = record
        run.save(only=[RunRow.record])
        list_record(standing, run=run)
        return run


def void_run(
    label: str, letter: str, number: int, who: str, at: Callable[[], str] = get_now
) -> RunRow:
    """Strike out a run that was written down wrongly: it stays to be read, and counts no more. Can
    be undone.

    Raises InputError without initials, NotAllowed for the run that alone proves the revision.
    """
    signed = checks.check_line("who", who.strip(), MAX_NAME)
    if not signed:
        raise InputError("who", "", NO_INITIALS)
    with open_transaction():
        standing = queries.get_revision(label, letter)
        run = queries.run_of(standing, number)
        if run.voided_at is None:
            if (
                standing.status != DRAFT
                and run.good
                and queries.list_verifying_runs(standing, 2) == [run]
            ):
                words = (
                    "It cannot be voided. Record another good run first, or save a change as the "
                    "next revision."
                )
                raise NotAllowed(f"This run verifies {label} {letter}. {words}")
            _set_voided(standing, run, at(), signed)
        return run


def count_again(label: str, letter: str, number: int) -> RunRow:
    """Undo a striking out."""
    with open_transaction():
        standing = queries.get_revision(label, letter)
        run = queries.run_of(standing, number)
        _set_voided(standing, run, None, None)
        return run


def _set_voided(standing: Revision, run: RunRow, moment: str | None, who: str | None) -> None:
    run.voided_at, run.voided_by = moment, who
    run.save(only=[RunRow.voided_at, RunRow.voided_by])
    list_record(standing, run=run)


def correct(
    label: str, letter: str, number: int, changed: Run, who: str, at: Callable[[], str] = get_now
) -> RunRow:
    """Correct a run for the person who recorded it. The earlier values stay in its history.

    Args:
        label: The number of the procedure, such as "P-0001".
        letter: The revision.
        number: The number of the run.
        changed: The corrected run.
        who: The initials of the person who corrects it.
        at: Returns the time of the correction.

    Returns:
        The corrected run.

    Raises:
        InputError: The initials are missing.
        NotAllowed: Another person recorded the run, the run is void, or the corrected run is marked
            good and cannot verify its revision.
    """
    signed = checks.check_line("who", who.strip(), MAX_NAME)
    if not signed:
        raise InputError("who", "", NO_INITIALS)
    moment = at()
    with open_transaction():
        standing = queries.get_revision(label, letter)
        run = queries.run_of(standing, number)
        before = run.document
        if _normalise_initials(signed) != _normalise_initials(before.who):
            raise NotAllowed(
                f"{before.who} recorded this run and can correct it. Another person can void "
                "it and record a new run."
            )
        if run.voided_at:
            raise NotAllowed("This run is void. Undo that first.")
        after = replace(changed, **{key: getattr(before, key) for key in MADE})
        # corrected to good it was made as planned after all
        after = replace(after, as_done=before.as_done and not after.good)
        check_not_to_come(after, get_latest_day(moment))
        was = _list_changes(before, after)
        if not was:
            return run
        # one of an older minor stands by the rules it was taken by
        minor = run.minor
        if after.good:
            try:
                check_good(after, get_plan(standing), standing.bands, minor)
            except InputError as error:
                words = "You can also correct the entries."
                raise NotAllowed(f"Not saved: {error.sentence} {words}") from error
        run.record = {**run_record(after, label, letter), "minor": minor}
        run.made_on = after.when
        run.corrections = [*run.corrections, {"when": moment, "who": signed, "was": was}]
        was_good, run.good = run.good, after.good
        run.save(only=[RunRow.record, RunRow.made_on, RunRow.corrections, RunRow.good])
        if run.good and standing.status == DRAFT:
            _verify_draft(standing, at)
        elif was_good and not run.good and standing.status != DRAFT:
            _unverify_revision(standing)
        list_record(standing, run=run)
        return run


def _unverify_revision(revision: Revision) -> None:
    """A revision whose last good run was corrected to not good is a draft again, and the newest
    before it that good runs verify takes its place.
    """
    if queries.list_verifying_runs(revision, 1):
        return
    was_proved = revision.status == PROVED
    revision.status, revision.proved_at = DRAFT, None
    revision.save(only=[Revision.status, Revision.proved_at])
    for before in queries.list_revisions(revision.procedure) if was_proved else ():
        if before.status == SUPERSEDED and queries.list_verifying_runs(before, 1):
            before.procedure, before.status = revision.procedure, PROVED
            before.save(only=[Revision.status])
            list_record(before)
            return


def _normalise_initials(initials: str) -> str:
    return initials.replace(".", "").replace(" ", "").casefold()


def _list_changes(before: Run, after: Run) -> dict[str, Json]:
    """What a run said before, {key or part.key: value, None for nothing}, where it says something
    else now.
    """
    one, other = _flatten_run(before), _flatten_run(after)
    return {key: one.get(key) for key in {**one, **other} if one.get(key) != other.get(key)}


def _flatten_run(run: Run) -> dict[str, Json]:
    """What of a run can be corrected, by key; what says nothing is left out."""
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
    told = flat | {key: value for key, value in figures if value is not None}
    return {key: value for key, value in told.items() if value not in ("", [])}


def keep_as_done(
    label: str,
    letter: str,
    run: Run,
    shop: Shop,
    once: str = "",
    at: Callable[[], str] = get_now,
    purge: int = 0,
    looked: bool = False,
) -> Revision:
    """Record a good run that differs from its plan, and save its settings as the next draft.

    The run belongs to the revision that it was made to. The draft has the rod, cup, gas, pulse and
    settings of the run, and needs another run for verification. A run that agrees with the plan is
    recorded as good, after the second look.

    Args:
        label, letter: The revision that the run was made to.
        run: The run.
        shop: The shop that the draft is planned in.
        once: Token of the form.
        at: Returns the time.
        purge: Number of the purge of the run, or 0.
        looked: Whether the user checked the cautions of the plan again.

    Returns:
        The draft, or the revision of the run.

    Raises:
        BadInput: The run is not good, or its cautions were not checked. Nothing is saved.
    """
    with open_transaction():
        standing = queries.get_revision(label, letter)
        plan = get_plan(standing)
        good = replace(run, good=True, as_done=False)
        try:
            check_good(good, plan, standing.bands)
        except OutsideBands:
            record_run(label, letter, replace(run, good=False, as_done=True), once, at, purge)
        else:
            check_second_look(plan, True, looked)
            record_run(label, letter, good, once, at, purge)
            return queries.get_revision(label, letter)
        joint = build_joint_as_done(
            plan, standing.bands, run, lambda joint: cached_plan(joint, shop)
        )
        return save_next_draft(label, joint, shop, f"{once}-done" if once else "", at, True)


def list_outside(standing: Revision, plan: Plan, run: Run) -> list[Outside]:
    """What of a run lies outside what a revision holds within."""
    return find_outside(run, standing.bands, plan)


def run_of(standing: Revision, number: int) -> RunRow:
    """A run of a revision by its number. Raises Missing."""
    return queries.run_of(standing, number)


def find_last_run(standing: Revision) -> Run | None:
    """The run of a revision that was written down last and stands, or None."""
    found = queries.find_last_run(standing)
    return found.document if found else None


def measured_bows_mm(procedure: str) -> list[float]:
    """What the runs of a revision, such as "P-0003 A", measured of its bow, mm; none where there
    is no such revision.
    """
    label, _, letter = procedure.partition(" ")
    try:
        runs = queries.list_runs(queries.get_revision(label, letter or None))
    except StoreError:
        return []
    bows = (run.document.measured.bow_mm for run in runs if not run.voided_at)
    return [float(bow) for bow in bows if bow is not None]
