"""Keeping: drafts, revisions, files. Every change is one transaction; a form sent twice is taken
once.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

from msgspec.structs import replace

from ...core.errors import InputError
from ...core.joint.joint import Joint
from ...core.plan.plan import Plan
from ...core.run.run import check_not_to_come
from ...core.run.verification import build_ranges
from ...core.schema.json_types import Json, JsonObject
from ...core.shop.shop import Shop
from ...formats.joint_json import MAX_BYTES, load_json, write_joint_file
from ...formats.plan_json import plan_data, read_plan
from ...formats.procedure_json import ProcedureFile, read_procedure_file
from ...formats.run_json import MORE as RUN_MORE
from ...formats.upgrades.steps import NewerFormat
from ...store import queries
from ...store.database import open_transaction
from ...store.errors import EditConflict, NewerVersion, NotAllowed, Unreadable
from ...store.models import Procedure, Revision, RunRow
from ..planning.planning import cached_plan
from .faces import check_views
from .finding import list_record

DRAFT, PROVED, SUPERSEDED = "draft", "proved", "superseded"
# Names on screen. The keys are fixed by the file format.
STATUS_NAMES = {
    DRAFT: "draft",
    PROVED: "verified",
    SUPERSEDED: "superseded",
    queries.REMOVED: "archived",
}
MAX_FILE_BYTES = MAX_BYTES
# what a run that says nothing of it was written as
MIN_MINOR_VERSION = 1
# somewhere it is tomorrow already
_FIRST_TO_BEGIN = timedelta(hours=14)


def get_now() -> str:
    """The time, UTC, to the second."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def get_latest_day(at: str) -> str:
    """The day it is, at a moment, where the day begins first."""
    return (datetime.fromisoformat(at) + _FIRST_TO_BEGIN).date().isoformat()


def _read_content(plan: Plan) -> dict[str, Json]:
    return {
        "title": plan.title.text(),
        "joint": write_joint_file(plan.joint),
        "plan": plan_data(plan),
        "bands": build_ranges(plan),
    }


def build_token(once: str, content: Any) -> str:
    """A form's token with what it was sent with: the same sent twice is one, another thing under it
    is another.
    """
    if not once:
        return ""
    text = json.dumps(content, ensure_ascii=False, sort_keys=True)
    return f"{once[:60]}.{hashlib.sha256(text.encode()).hexdigest()[:24]}"


def find_sent_before(kind: type[Revision] | type[RunRow], once: str) -> Any:
    """What was kept of a form sent before under a token, or None."""
    return kind.get_or_none(kind.once == once) if once else None


def keep_draft(
    joint: Joint, shop: Shop, once: str = "", at: Callable[[], str] = get_now
) -> Revision:
    """Keep a joint's plan as a new draft, revision A, under the next number.

    Parameters: joint; shop; once, a form's token, so that sending it twice keeps it once; at, the
    clock.
    """
    plan = cached_plan(joint, shop)
    token = build_token(once, write_joint_file(plan.joint))
    with open_transaction():
        if done := find_sent_before(Revision, token):
            return queries.get_revision(done.procedure.label, done.letter)
        owner = Procedure.create(number=queries.find_next_number(), created_at=at())
        return _add(owner, "A", token, at, plan)


def _add(owner: Procedure, letter: str, once: str, at: Callable[[], str], plan: Plan) -> Revision:
    draft: Revision = Revision.create(
        procedure=owner,
        letter=letter,
        status=DRAFT,
        once=once or None,
        changed_at=at(),
        **_read_content(plan),
    )
    list_record(draft, plan)
    return draft


def save_draft(
    label: str, joint: Joint, edit: int, shop: Shop, at: Callable[[], str] = get_now
) -> Revision:
    """Save a changed joint in the current draft.

    Args:
        label: The number of the procedure, such as "P-0001".
        joint: The changed joint.
        edit: The edit counter of the draft when the user read it.
        shop: The shop for the new plan.
        at: Returns the time of the save.

    Raises:
        EditConflict: Another person saved the draft after the user read it.
        NotAllowed: The newest revision is not a draft.
    """
    plan = cached_plan(joint, shop)
    content = _read_content(plan)
    with open_transaction():
        draft = queries.get_revision(label)
        name = f"{label} {draft.letter}"
        if draft.status != DRAFT:
            raise NotAllowed(
                f"{name} is {STATUS_NAMES[draft.status]} and cannot be edited. "
                "Save the change as a new revision."
            )
        check_standing(draft)
        if content["joint"] == draft.joint:
            return draft
        if draft.edit != edit:
            words = (
                "was changed by someone else since you opened it. Your change is not lost: "
                "compare, then overwrite theirs or save yours as a new draft."
            )
            raise EditConflict(f"{name} {words}")
        if queries.has_runs(draft):
            words = (
                "has runs. Save the change as a new draft, so that the runs still match their plan."
            )
            raise NotAllowed(f"{name} {words}")
        for key, value in content.items():
            setattr(draft, key, value)
        draft.edit += 1
        draft.changed_at = at()
        draft.save()
        list_record(draft, plan)
        return draft


def revise(
    label: str, joint: Joint, shop: Shop, once: str = "", at: Callable[[], str] = get_now
) -> Revision:
    """Keep a change to a proved procedure as the next revision, a draft. Raises NotAllowed with a
    draft standing.
    """
    plan = cached_plan(joint, shop)
    token = build_token(once, [label, write_joint_file(plan.joint)])
    with open_transaction():
        if done := find_sent_before(Revision, token):
            return queries.get_revision(label, done.letter)
        newest = queries.get_revision(label)
        check_standing(newest)
        if newest.status == DRAFT:
            raise NotAllowed(
                f"{label} already has draft {newest.letter}. Change that draft, or verify it first."
            )
        if write_joint_file(plan.joint) == newest.joint:
            raise NotAllowed(
                f"Nothing differs from {label} {newest.letter}. Change the joint first."
            )
        return _add(
            newest.procedure,
            get_next_letter(queries.get_last_letter(newest.procedure)),
            token,
            at,
            plan,
        )


def save_next_draft(
    label: str,
    joint: Joint,
    shop: Shop,
    once: str = "",
    at: Callable[[], str] = get_now,
    beside_unrun: bool = False,
) -> Revision:
    """Keep a change as the next draft of a procedure, whether it is proved or not; a draft that was
    run and did not come out stays in view beside it, with its runs.

    Parameters: beside_unrun, whether a draft that was not run yet may stand already. Raises
    NotAllowed where one does and may not, or nothing differs.
    """
    plan = cached_plan(joint, shop)
    token, tries = build_token(once, [label, write_joint_file(plan.joint)]), 0
    with open_transaction():
        while done := find_sent_before(Revision, f"{token}.{tries}" if tries else token):
            # one that was taken back since is not the one that is wanted now
            if done.removed_at is None:
                return queries.get_revision(label, done.letter)
            tries += 1
        newest = queries.get_revision(label)
        standing = newest.status == DRAFT and newest.removed_at is None
        if standing and not beside_unrun and not queries.has_runs(newest):
            words = "which has no run yet. Weld that one first, or archive it."
            raise NotAllowed(f"{label} has draft {newest.letter}, {words}")
        if write_joint_file(plan.joint) == newest.joint:
            raise NotAllowed(f"Nothing differs from {label} {newest.letter}.")
        letter = get_next_letter(queries.get_last_letter(newest.procedure))
        return _add(
            newest.procedure, letter, f"{token}.{tries}" if tries and token else token, at, plan
        )


def back_from(label: str, letter: str, before: str, at: Callable[[], str] = get_now) -> None:
    """Take an attempt back that was not run: it is put away, and the draft before it stands again
    where an earlier version put it away. Raises NotAllowed.
    """
    with open_transaction():
        draft = queries.get_revision(label, letter)
        if queries.has_runs(draft):
            raise NotAllowed(f"{label} {letter} now has a run and cannot be archived.")
        archive_draft(label, letter, at)
        if queries.get_revision(label, before).removed_at:
            restore_draft(label, before)


def get_next_letter(letter: str) -> str:
    """The letter after.

    >>> get_next_letter("A"), get_next_letter("Z"), get_next_letter("AZ")
    ('B', 'AA', 'BA')
    """
    if letter[-1] != "Z":
        return letter[:-1] + chr(ord(letter[-1]) + 1)
    return (get_next_letter(letter[:-1]) if len(letter) > 1 else "A") + "A"


def check_standing(revision: Revision) -> None:
    """Refuse to write to a draft that was put away. Raises NotAllowed."""
    if revision.removed_at:
        raise NotAllowed(
            f"{revision.procedure.label} {revision.letter} is archived. Restore it first."
        )


def archive_draft(label: str, letter: str, at: Callable[[], str] = get_now) -> Revision:
    """Put a draft away: it leaves the list, keeps its number and its runs, and can be put back.
    Raises NotAllowed.
    """
    with open_transaction():
        draft = queries.get_revision(label, letter)
        if draft.status != DRAFT:
            raise NotAllowed(
                f"{label} {letter} is {STATUS_NAMES[draft.status]} and cannot be archived: "
                "only a draft can."
            )
        return _set_removed(draft, draft.removed_at or at())


def restore_draft(label: str, letter: str) -> Revision:
    """Put a draft back into the book. Raises NotAllowed where another stands in its place by
    now.
    """
    with open_transaction():
        draft = queries.get_revision(label, letter)
        if draft.removed_at is None:
            return draft
        standing = queries.get_revision(label)
        if standing.status == DRAFT and standing.removed_at is None:
            raise NotAllowed(
                f"{label} already has draft {standing.letter}. Archive that one first."
            )
        return _set_removed(draft, None)


def _set_removed(draft: Revision, moment: str | None) -> Revision:
    draft.removed_at = moment
    draft.save(only=[Revision.removed_at])
    list_record(draft)
    return draft


def get_plan(revision: Revision) -> Plan:
    """Return the plan of a revision as it was saved.

    Raises:
        NewerVersion: A newer version of Wise Arc wrote the record.
        Unreadable: The record is damaged.
    """
    name = f"{revision.procedure.label} {revision.letter}"
    try:
        return read_plan(revision.plan)
    except NewerFormat as error:
        raise NewerVersion(
            f"{name} {error.rule}. Wise Arc does not show it, because it could show it wrongly."
        ) from error
    except InputError as error:
        words = (
            "Its record was changed or damaged outside Wise Arc. Restore a backup. You "
            "can still save its file unchanged."
        )
        raise Unreadable(f"{name} cannot be shown: {error}. {words}") from error


def build_file(revision: Revision) -> ProcedureFile:
    """A revision with its runs as a procedure file holds it: as it was kept, whatever today's rules
    make of it.
    """
    return ProcedureFile(
        revision.procedure.label,
        revision.letter,
        revision.status,
        revision.title,
        revision.joint,
        revision.plan,
        revision.bands,
        [_run_of(run) for run in queries.list_runs(revision)],
        revision.signatures,
        revision.changed_at,
        revision.proved_at,
        revision.procedure.created_at,
        revision.taken_as,
        revision.removed_at,
    )


def _run_of(run: RunRow) -> dict[str, Json]:
    """A run as a file has it: its record, and what the book knows of it beside."""
    more = {
        "kept": run.kept_at,
        "voided": run.voided_at,
        "voided_by": run.voided_by,
        "left_out": run.left_out,
        "corrections": run.corrections or None,
    }
    told = {key: value for key, value in more.items() if value is not None}
    return {"minor": MIN_MINOR_VERSION, **run.record, **told}


def take_procedure_text(text: str, once: str = "") -> tuple[Revision, str]:
    """Take the text of a procedure file into the book; see `import_procedure`."""
    return import_procedure(load_json(text, "wisearc/procedure"), once)


def import_procedure(
    data: Any, once: str = "", at: Callable[[], str] = get_now
) -> tuple[Revision, str]:
    """Take a procedure file into the book, under its own number where that is free, else the next.

    Returns the revision and what came of it: "own" number, "renumbered", or "known" where the book
    holds it already. Raises InputError with key, value and what is allowed.
    """
    moment = at()
    given, plan = check_file(data, moment)
    token = build_token(once, data)
    with open_transaction():
        if done := find_sent_before(Revision, token):
            return queries.get_revision(done.procedure.label, done.letter), "own"
        number = queries.parse_number(given.number)
        if known := find_known_revision(given):
            return known, "known"
        own = queries.find_procedure(number) is None
        owner = Procedure.create(
            number=number if own else queries.find_next_number(), created_at=given.created or moment
        )
        # a draft that was put away where it comes from is wanted here
        wanted = replace(renumber_file(given), removed=None)
        return put_in(owner, wanted, plan, moment, token), "own" if own else "renumbered"


def renumber_file(given: ProcedureFile) -> ProcedureFile:
    """A file that says of itself under which number it came."""
    return replace(given, taken_as=given.number)


def check_file(data: Any, moment: str) -> tuple[ProcedureFile, Plan]:
    """What a procedure file holds, by the rules that a record made here goes by, and seen to show.
    Raises InputError.
    """
    given, plan = read_procedure_file(data)
    for i, one in enumerate(given.recorded):
        try:
            check_not_to_come(one.run, get_latest_day(moment))
        except InputError as error:
            raise InputError(f"runs[{i}].{error.field}", error.value, error.rule) from error
    check_views(plan, given.bands)
    return given, plan


def put_in(
    owner: Procedure, given: ProcedureFile, plan: Plan, moment: str, token: str = ""
) -> Revision:
    """Put a file that was checked into the book as a revision of a procedure."""
    taken = Revision.create(
        procedure=owner,
        letter=given.letter,
        status=given.status,
        title=given.title,
        joint=given.joint,
        plan=given.plan,
        bands=given.bands,
        signatures=given.signatures,
        taken_as=given.taken_as,
        once=token or None,
        changed_at=given.changed or moment,
        proved_at=given.proved,
        removed_at=given.removed,
    )
    rows = [
        {
            "revision": taken,
            "made_on": one.run.when,
            "good": one.run.good,
            "kept_at": one.beside.kept or moment,
            "voided_at": one.beside.voided,
            "voided_by": one.beside.voided_by,
            "left_out": one.beside.left_out,
            "corrections": one.data.get("corrections") or [],
            "record": {
                **{k: v for k, v in one.data.items() if k not in RUN_MORE},
                "procedure": owner.label,
                "revision": taken.letter,
            },
        }
        for one in given.recorded
    ]
    queries.add_runs(rows)
    list_record(taken, plan)
    return taken


def find_known_revision(given: ProcedureFile) -> Revision | None:
    """The revision that a file was taken into, or written from, if it still holds all that the file
    does; else None.
    """

    def content(run: JsonObject) -> str:
        kept = {
            k: v for k, v in run.items() if k not in ("procedure", "revision", "minor", *RUN_MORE)
        }
        return json.dumps(kept, sort_keys=True)

    for like in queries.list_numbered_revisions(given.letter, given.number):
        same = all(
            getattr(like, k) == getattr(given, k)
            for k in ("plan", "joint", "bands", "title", "signatures")
        )
        if same and {content(run) for run in given.runs} <= {
            content(run.record) for run in queries.list_runs(like)
        }:
            return like
    return None
