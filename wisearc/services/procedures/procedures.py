"""Procedures: drafts, revisions, files.

Every change is one transaction, and a repeated form is saved once.
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
from ...core.run.run import check_not_in_future
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
from ..planning.planner import cached_plan
from .faces import check_views
from .library_search import list_record

DRAFT, PROVED, SUPERSEDED = "draft", "proved", "superseded"
# Names on screen. The keys are fixed by the file format.
STATUS_NAMES = {
    DRAFT: "draft",
    PROVED: "verified",
    SUPERSEDED: "superseded",
    queries.REMOVED: "archived",
}
MAX_FILE_BYTES = MAX_BYTES
# The defaults of a run without these values.
MIN_MINOR_VERSION = 1
# In the first time zone of the day it is already tomorrow.
_FIRST_TO_BEGIN = timedelta(hours=14)


def get_now() -> str:
    """Return the time, UTC, to the second."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def get_latest_day(at: str) -> str:
    """Return the date in the first time zone of the day."""
    return (datetime.fromisoformat(at) + _FIRST_TO_BEGIN).date().isoformat()


def _read_content(plan: Plan) -> dict[str, Json]:
    return {
        "title": plan.title.text(),
        "joint": write_joint_file(plan.joint),
        "plan": plan_data(plan),
        "bands": build_ranges(plan),
    }


def build_token(once: str, content: Any) -> str:
    """Return the token of a form with its contents.

    A repeated form has the same token, and other contents another one.

    Args:
        once: Token of the form.
        content: Its contents.
    """
    if not once:
        return ""
    text = json.dumps(content, ensure_ascii=False, sort_keys=True)
    return f"{once[:60]}.{hashlib.sha256(text.encode()).hexdigest()[:24]}"


def find_sent_before(kind: type[Revision] | type[RunRow], once: str) -> Any:
    """Return the record of an earlier form with a token, or None.

    Args:
        kind: Type of the record.
        once: The token.
    """
    return kind.get_or_none(kind.once == once) if once else None


def keep_draft(
    joint: Joint, shop: Shop, once: str = "", at: Callable[[], str] = get_now
) -> Revision:
    """Save the plan of a joint as a new draft, revision A, with the next number.

    Args:
        joint: The joint.
        shop: The shop.
        once: Token of the form. A repeated form is saved once.
        at: Current time, UTC.
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
        check_not_archived(draft)
        if content["joint"] == draft.joint:
            return draft
        if draft.edit != edit:
            text = (
                "was changed by someone else since you opened it. Your change is not lost: "
                "compare, then overwrite theirs or save yours as a new draft."
            )
            raise EditConflict(f"{name} {text}")
        if queries.has_runs(draft):
            text = (
                "has runs. Save the change as a new draft, so that the runs still match their plan."
            )
            raise NotAllowed(f"{name} {text}")
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
    """Save a change of a verified procedure as its next revision, a draft.

    Args:
        label: The procedure.
        joint: The changed joint.
        shop: The shop for the new plan.
        once: Token of the form.
        at: Current time, UTC.

    Raises:
        NotAllowed: The procedure has a draft.
    """
    plan = cached_plan(joint, shop)
    token = build_token(once, [label, write_joint_file(plan.joint)])
    with open_transaction():
        if done := find_sent_before(Revision, token):
            return queries.get_revision(label, done.letter)
        newest = queries.get_revision(label)
        check_not_archived(newest)
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
    replace_unrun: bool = False,
) -> Revision:
    """Save a change as the next draft of a procedure, verified or not.

    A draft with runs stays visible next to it.

    Args:
        label: The procedure.
        joint: The changed joint.
        shop: The shop for the new plan.
        once: Token of the form.
        at: Current time, UTC.
        replace_unrun: Whether a draft without runs is allowed.

    Raises:
        NotAllowed: A draft without runs exists, or nothing differs.
    """
    plan = cached_plan(joint, shop)
    token, tries = build_token(once, [label, write_joint_file(plan.joint)]), 0
    with open_transaction():
        while done := find_sent_before(Revision, f"{token}.{tries}" if tries else token):
            # A draft that was undone since is not the requested one.
            if done.removed_at is None:
                return queries.get_revision(label, done.letter)
            tries += 1
        newest = queries.get_revision(label)
        replaces = newest.status == DRAFT and newest.removed_at is None
        if replaces and not replace_unrun and not queries.has_runs(newest):
            text = "which has no run yet. Weld that one first, or archive it."
            raise NotAllowed(f"{label} has draft {newest.letter}, {text}")
        if write_joint_file(plan.joint) == newest.joint:
            raise NotAllowed(f"Nothing differs from {label} {newest.letter}.")
        letter = get_next_letter(queries.get_last_letter(newest.procedure))
        return _add(
            newest.procedure, letter, f"{token}.{tries}" if tries and token else token, at, plan
        )


def undo_attempt(label: str, letter: str, before: str, at: Callable[[], str] = get_now) -> None:
    """Undo an attempt without runs.

    Its draft is archived, and the draft before it is restored if an earlier version archived it.

    Args:
        label: The procedure.
        letter: Letter of the draft.
        before: Letter of the draft before.
        at: Current time, UTC.

    Raises:
        NotAllowed: The draft has runs.
    """
    with open_transaction():
        draft = queries.get_revision(label, letter)
        if queries.has_runs(draft):
            raise NotAllowed(f"{label} {letter} now has a run and cannot be archived.")
        archive_draft(label, letter, at)
        if queries.get_revision(label, before).removed_at:
            restore_draft(label, before)


def get_next_letter(letter: str) -> str:
    """Return the next revision letter.

    >>> get_next_letter("A"), get_next_letter("Z"), get_next_letter("AZ")
    ('B', 'AA', 'BA')
    """
    if letter[-1] != "Z":
        return letter[:-1] + chr(ord(letter[-1]) + 1)
    return (get_next_letter(letter[:-1]) if len(letter) > 1 else "A") + "A"


def check_not_archived(revision: Revision) -> None:
    """Check that a draft is not archived.

    Raises:
        NotAllowed: It is.
    """
    if revision.removed_at:
        raise NotAllowed(
            f"{revision.procedure.label} {revision.letter} is archived. Restore it first."
        )


def archive_draft(label: str, letter: str, at: Callable[[], str] = get_now) -> Revision:
    """Archive a draft.

    It leaves the list, keeps its number and its runs, and can be restored.

    Args:
        label: The procedure.
        letter: Letter of the draft.
        at: Current time, UTC.

    Raises:
        NotAllowed: The revision is not a draft.
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
    """Restore an archived draft.

    Args:
        label: The procedure.
        letter: Letter of the draft.

    Raises:
        NotAllowed: The procedure has another draft.
    """
    with open_transaction():
        draft = queries.get_revision(label, letter)
        if draft.removed_at is None:
            return draft
        newest = queries.get_revision(label)
        if newest.status == DRAFT and newest.removed_at is None:
            raise NotAllowed(f"{label} already has draft {newest.letter}. Archive that one first.")
        return _set_removed(draft, None)


def _set_removed(draft: Revision, moment: str | None) -> Revision:
    draft.removed_at = moment
    draft.save(only=[Revision.removed_at])
    list_record(draft)
    return draft


def get_plan(revision: Revision) -> Plan:
    """Return the saved plan of a revision.

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
        text = (
            "Its record was changed or damaged outside Wise Arc. Restore a backup. You "
            "can still save its file unchanged."
        )
        raise Unreadable(f"{name} cannot be shown: {error}. {text}") from error


def build_file(revision: Revision) -> ProcedureFile:
    """Return a revision with its runs for a procedure file.

    It is as saved, independent of the current rules.
    """
    return ProcedureFile(
        revision.procedure.label,
        revision.letter,
        revision.status,
        revision.title,
        revision.joint,
        revision.plan,
        revision.bands,
        [_write_run(run) for run in queries.list_runs(revision)],
        revision.signatures,
        revision.changed_at,
        revision.proved_at,
        revision.procedure.created_at,
        revision.taken_as,
        revision.removed_at,
    )


def _write_run(run: RunRow) -> dict[str, Json]:
    """Return a run for a file: its record with its library data."""
    more = {
        "kept": run.kept_at,
        "voided": run.voided_at,
        "voided_by": run.voided_by,
        "left_out": run.left_out,
        "corrections": run.corrections or None,
    }
    fields = {key: value for key, value in more.items() if value is not None}
    return {"minor": MIN_MINOR_VERSION, **run.record, **fields}


def take_procedure_text(text: str, once: str = "") -> tuple[Revision, str]:
    """Import the text of a procedure file; see `import_procedure`.

    Args:
        text: The file.
        once: Token of the form.
    """
    return import_procedure(load_json(text, "wisearc/procedure"), once)


def import_procedure(
    data: Any, once: str = "", at: Callable[[], str] = get_now
) -> tuple[Revision, str]:
    """Import a procedure file, with its number if free, or else the next one.

    Args:
        data: The data of the file.
        once: Token of the form.
        at: Current time, UTC.

    Returns:
        The revision and the result: "own" number, "renumbered", or "known" for an existing
        procedure.

    Raises:
        InputError: The file is wrong. The error names key, value and rule.
    """
    moment = at()
    procedure_file, plan = check_file(data, moment)
    token = build_token(once, data)
    with open_transaction():
        if done := find_sent_before(Revision, token):
            return queries.get_revision(done.procedure.label, done.letter), "own"
        number = queries.parse_number(procedure_file.number)
        if known := find_known_revision(procedure_file):
            return known, "known"
        is_number_free = queries.find_procedure(number) is None
        owner = Procedure.create(
            number=number if is_number_free else queries.find_next_number(),
            created_at=procedure_file.created or moment,
        )
        # A draft that was archived in its old library is active in this one.
        wanted = replace(renumber_file(procedure_file), removed=None)
        return insert_revision(
            owner, wanted, plan, moment, token
        ), "own" if is_number_free else "renumbered"


def renumber_file(procedure_file: ProcedureFile) -> ProcedureFile:
    """Return a file that names its original number."""
    return replace(procedure_file, taken_as=procedure_file.number)


def check_file(data: Any, moment: str) -> tuple[ProcedureFile, Plan]:
    """Check a procedure file by the rules for records made here, and that it can be displayed.

    Args:
        data: The data of the file.
        moment: Current time, UTC.

    Raises:
        InputError: The file is wrong.
    """
    procedure_file, plan = read_procedure_file(data)
    for i, recorded in enumerate(procedure_file.recorded):
        try:
            check_not_in_future(recorded.run, get_latest_day(moment))
        except InputError as error:
            raise InputError(f"runs[{i}].{error.field}", error.value, error.rule) from error
    check_views(plan, procedure_file.bands)
    return procedure_file, plan


def insert_revision(
    owner: Procedure, procedure_file: ProcedureFile, plan: Plan, moment: str, token: str = ""
) -> Revision:
    """Save a checked file as a revision of a procedure.

    Args:
        owner: The procedure.
        procedure_file: The file.
        plan: Its plan.
        moment: Current time, UTC.
        token: Token of the form.
    """
    taken = Revision.create(
        procedure=owner,
        letter=procedure_file.letter,
        status=procedure_file.status,
        title=procedure_file.title,
        joint=procedure_file.joint,
        plan=procedure_file.plan,
        bands=procedure_file.bands,
        signatures=procedure_file.signatures,
        taken_as=procedure_file.taken_as,
        once=token or None,
        changed_at=procedure_file.changed or moment,
        proved_at=procedure_file.proved,
        removed_at=procedure_file.removed,
    )
    rows = [
        {
            "revision": taken,
            "made_on": recorded.run.when,
            "good": recorded.run.good,
            "kept_at": recorded.beside.kept or moment,
            "voided_at": recorded.beside.voided,
            "voided_by": recorded.beside.voided_by,
            "left_out": recorded.beside.left_out,
            "corrections": recorded.data.get("corrections") or [],
            "record": {
                **{k: v for k, v in recorded.data.items() if k not in RUN_MORE},
                "procedure": owner.label,
                "revision": taken.letter,
            },
        }
        for recorded in procedure_file.recorded
    ]
    queries.add_runs(rows)
    list_record(taken, plan)
    return taken


def find_known_revision(procedure_file: ProcedureFile) -> Revision | None:
    """Return the revision with all contents of a file, or None.

    It was imported from the file or exported to it.
    """

    def content(run: JsonObject) -> str:
        kept = {
            k: v for k, v in run.items() if k not in ("procedure", "revision", "minor", *RUN_MORE)
        }
        return json.dumps(kept, sort_keys=True)

    for like in queries.list_numbered_revisions(procedure_file.letter, procedure_file.number):
        same = all(
            getattr(like, k) == getattr(procedure_file, k)
            for k in ("plan", "joint", "bands", "title", "signatures")
        )
        if same and {content(run) for run in procedure_file.runs} <= {
            content(run.record) for run in queries.list_runs(like)
        }:
            return like
    return None
