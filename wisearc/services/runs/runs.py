"""Runs: written down, corrected, struck out; what proves a draft, and a draft made of what was
really done.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from ...core.errors import BadInput
from ...core.plan.plan import Plan
from ...core.run.record import (
    KEYS,
    LENGTHS,
    MOST_RUNS,
    MOST_TEXT,
    NO_INITIALS,
    PARTS,
    check_not_to_come,
)
from ...core.run.verification import Outside, OutsideBands, as_done, check_good, outside
from ...core.schema import checks
from ...core.shop.shop import Shop
from ...formats.procedure_json import run_file, text_size
from ...store import purges, queries
from ...store.database import transaction
from ...store.errors import NotAllowed, StoreError
from ...store.models import Revision, Run
from ..procedures.finding import list_record
from ..procedures.procedures import (
    DRAFT,
    PROVED,
    SUPERSEDED,
    attempt,
    check_standing,
    latest_day,
    now,
    plan_of,
    sent_before,
    token_of,
)

# what a correction cannot change: who ran it, what was logged and tried; what
# it belongs to
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
HEAD = ("procedure", "revision", "format", "version", "minor")
STANDS = (*MADE, *HEAD)


def record_run(
    label: str,
    letter: str,
    run: Mapping[str, Any],
    once: str = "",
    at: Callable[[], str] = now,
    purge: int = 0,
) -> tuple[Run, bool]:
    """Take down a run of a revision; a good one proves a draft.

    Parameters: run, data of the run format without procedure and revision; purge, the number of the
    purge that goes with it, or 0. Returns the run, and whether it proved the revision. Raises
    BadInput for values that cannot be, or good where the run cannot prove.
    """
    taken = _purge_taken(purge)
    record, moment = run_file({**run, "purge": taken} if taken else run, label, letter), at()
    check_not_to_come(record, latest_day(moment))
    token = token_of(once, dict(run))
    with transaction():
        if done := sent_before(Run, token):
            return done, False
        standing = queries.revision(label, letter)
        if standing.status == SUPERSEDED:
            raise NotAllowed(
                f"{label} {letter} is superseded; make the run to the newest revision."
            )
        check_standing(standing)
        _check_room(standing, record)
        if record["good"]:
            plan = plan_of(standing)
            check_good(record, plan, standing.bands)
        kept = Run.create(
            revision=standing,
            made_on=record["when"],
            record=record,
            good=record["good"],
            once=token or None,
            kept_at=moment,
        )
        if taken:
            purges.change_purge(purge, run=kept)
        proves = record["good"] and standing.status == DRAFT
        if proves:
            _prove(standing, at)
        list_record(standing, run=kept)
        return kept, proves


def _purge_taken(number: int) -> dict[str, Any] | None:
    """What a purge came to, where it is done and was not written down with another run."""
    found = purges.purge(number) if number else None
    if found is None or found.ended is None or getattr(found, "run_id", None) is not None:
        return None
    record: dict[str, Any] | None = found.record
    return record


def _check_room(
    standing: Revision, record: Mapping[str, Any], before: Mapping[str, Any] | None = None
) -> None:
    """Refuse a run beyond what one revision holds, so that its page and its file stay what can be
    worked with. Parameters: before, what stands in its place.
    """
    runs, size = queries.room_taken(standing)
    more = text_size(record) - (text_size(before) if before else 0)
    if (runs >= MOST_RUNS and before is None) or size + more > MOST_TEXT:
        name = f"{standing.procedure.label} {standing.letter}"
        raise NotAllowed(
            f"{name} holds {runs} runs, as many as one revision carries. Keep it again as a new"
            " draft and go on there."
        )


def _prove(draft: Revision, at: Callable[[], str]) -> None:
    for before in queries.revisions(draft.procedure):
        if before.status == PROVED:
            before.procedure, before.status = draft.procedure, SUPERSEDED
            before.save(only=[Revision.status])
            list_record(before)
    draft.status, draft.proved_at = PROVED, at()
    draft.save(only=[Revision.status, Revision.proved_at])


def keep_reading(
    label: str, letter: str, number: int, seen: Mapping[str, Any], reading: Mapping[str, Any]
) -> Run:
    """Keep with a run what was seen of it on a closer look, and what it was read as. Raises
    BadInput, NotAllowed.
    """
    with transaction():
        standing = queries.revision(label, letter)
        run = queries.run_of(standing, number)
        if run.voided_at:
            raise NotAllowed("This run was struck out; undo that first.")
        record = {**run.record, "seen": dict(seen), "reading": dict(reading)}
        run_file({key: value for key, value in record.items() if key not in HEAD}, label, letter)
        _check_room(standing, record, run.record)
        run.record = record
        run.save(only=[Run.record])
        list_record(standing, run=run)
        return run


def strike_out(label: str, letter: str, number: int, who: str, at: Callable[[], str] = now) -> Run:
    """Strike out a run that was written down wrongly: it stays to be read, and counts no more. Can
    be undone.

    Raises BadInput without initials, NotAllowed for the run that alone proves the revision.
    """
    signed = checks.line("who", who.strip(), LENGTHS["who"])
    if not signed:
        raise BadInput("who", "", NO_INITIALS)
    with transaction():
        standing = queries.revision(label, letter)
        run = queries.run_of(standing, number)
        if run.voided_at is None:
            if standing.status != DRAFT and run.good and queries.proving(standing, 2) == [run]:
                words = (
                    "It stays; write down another good run first, or keep a change as the next"
                    " revision."
                )
                raise NotAllowed(f"This is the run that proves {label} {letter}. {words}")
            _set_voided(standing, run, at(), signed)
        return run


def count_again(label: str, letter: str, number: int) -> Run:
    """Undo a striking out."""
    with transaction():
        standing = queries.revision(label, letter)
        run = queries.run_of(standing, number)
        _set_voided(standing, run, None, None)
        return run


def _set_voided(standing: Revision, run: Run, moment: str | None, who: str | None) -> None:
    run.voided_at, run.voided_by = moment, who
    run.save(only=[Run.voided_at, Run.voided_by])
    list_record(standing, run=run)


def correct(
    label: str,
    letter: str,
    number: int,
    changed: Mapping[str, Any],
    who: str,
    at: Callable[[], str] = now,
) -> Run:
    """Correct what was written down of a run, by the hand that wrote it: what it said before stays,
    struck out and signed.

    Parameters: changed, the run as it should read, as `record_run` takes it. Raises BadInput
    without initials or for values that cannot be, NotAllowed for another hand, a run struck out, or
    a good run that would not prove as corrected.
    """
    signed = checks.line("who", who.strip(), LENGTHS["who"])
    if not signed:
        raise BadInput("who", "", NO_INITIALS)
    moment = at()
    with transaction():
        standing = queries.revision(label, letter)
        run = queries.run_of(standing, number)
        writer = str(run.record["who"])
        if _plain(signed) != _plain(writer):
            raise NotAllowed(
                f"{writer} wrote this run down and corrects it. Another hand strikes it out and"
                " writes down a run of its own."
            )
        if run.voided_at:
            raise NotAllowed("This run was struck out; undo that first.")
        kept = {key: run.record[key] for key in MADE if key in run.record}
        record = run_file(
            {**{k: v for k, v in changed.items() if k in KEYS}, **kept}, label, letter
        )
        check_not_to_come(record, latest_day(moment))
        was = _was(run.record, record)
        if not was:
            return run
        # one of an older minor stands by the rules it was taken by
        record["minor"] = run.record.get("minor", 0)
        if record["good"]:
            try:
                check_good(record, plan_of(standing), standing.bands)
            except BadInput as error:
                words = "Record it as not good instead, or correct what it says."
                raise NotAllowed(f"As corrected {error.rule}. {words}") from error
        run.record, run.made_on = record, record["when"]
        run.corrections = [*run.corrections, {"when": moment, "who": signed, "was": was}]
        was_good, run.good = run.good, record["good"]
        run.save(only=[Run.record, Run.made_on, Run.corrections, Run.good])
        if run.good and standing.status == DRAFT:
            _prove(standing, at)
        elif was_good and not run.good and standing.status != DRAFT:
            _stand_without(standing)
        list_record(standing, run=run)
        return run


def _stand_without(revision: Revision) -> None:
    """A revision whose last good run was corrected to not good is a draft again, and the newest
    before it that good runs verify takes its place.
    """
    if queries.proving(revision, 1):
        return
    was_proved = revision.status == PROVED
    revision.status, revision.proved_at = DRAFT, None
    revision.save(only=[Revision.status, Revision.proved_at])
    for before in queries.revisions(revision.procedure) if was_proved else ():
        if before.status == SUPERSEDED and queries.proving(before, 1):
            before.procedure, before.status = revision.procedure, PROVED
            before.save(only=[Revision.status])
            list_record(before)
            return


def _plain(initials: str) -> str:
    return initials.replace(".", "").replace(" ", "").casefold()


def _was(before: Mapping[str, Any], after: Mapping[str, Any]) -> dict[str, Any]:
    """What a run said before, {key or part.key: value, None for nothing}, where it says something
    else now.
    """
    one, other = _flat(before), _flat(after)
    return {key: one.get(key) for key in {**one, **other} if one.get(key) != other.get(key)}


def _flat(record: Mapping[str, Any]) -> dict[str, Any]:
    flat: dict[str, Any] = {}
    for key, value in record.items():
        if key in PARTS:
            flat |= {f"{key}.{name}": one for name, one in value.items() if one is not None}
        elif key in ("front", "back"):
            flat[key] = value["colour"]
        elif key not in STANDS and value not in ("", []):
            flat[key] = value
    return flat


def keep_as_done(
    label: str,
    letter: str,
    run: Mapping[str, Any],
    shop: Shop,
    once: str = "",
    at: Callable[[], str] = now,
    purge: int = 0,
) -> Revision:
    """Record a run that came out good and was not made as planned, and keep what was really done
    as the next draft of its procedure.

    The run stays with the revision that it was made to, as what was tried; the draft has the run's
    own rod, cup, gas, pulse and settings, and is verified by a run of its own. A run that turns out
    to be as planned is recorded as good.

    Returns the draft, or the revision that the run was made to. Raises BadInput where the run is
    not good; then nothing is kept.
    """
    with transaction():
        standing = queries.revision(label, letter)
        plan = plan_of(standing)
        record = run_file({**run, "good": True}, label, letter)
        try:
            check_good(record, plan, standing.bands)
        except OutsideBands:
            pass
        else:
            record_run(label, letter, {**run, "good": True}, once, at, purge)
            return queries.revision(label, letter)
        record_run(label, letter, {**run, "good": False, "as_done": True}, once, at, purge)
        joint = as_done(plan, standing.bands, run, shop)
        return attempt(label, joint, shop, f"{once}-done" if once else "", at, True)


def outside_of(standing: Revision, plan: Plan, run: Mapping[str, Any]) -> list[Outside]:
    """What of a run lies outside what a revision holds within."""
    return outside(run, standing.bands, plan)


def run_of(standing: Revision, number: int) -> Run:
    """A run of a revision by its number. Raises Missing."""
    return queries.run_of(standing, number)


def last_run(standing: Revision) -> Mapping[str, Any] | None:
    """The run of a revision that was written down last and stands, or None."""
    found = queries.last_run(standing)
    return found.record if found else None


def measured_bows_mm(procedure: str) -> list[float]:
    """What the runs of a revision, such as "P-0003 A", measured of its bow, mm; none where there
    is no such revision.
    """
    label, _, letter = procedure.partition(" ")
    try:
        runs = queries.runs(queries.revision(label, letter or None))
    except StoreError:
        return []
    bows = ((run.record.get("measured") or {}).get("bow_mm") for run in runs if not run.voided_at)
    return [float(bow) for bow in bows if bow is not None]
