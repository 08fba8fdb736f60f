"""Procedures: drafts and revisions.

Every change is one transaction, and a repeated form is saved once.
"""

from __future__ import annotations

from collections.abc import Callable

from ...core.errors import InputError
from ...core.joint.joint import Joint
from ...core.plan.plan import Plan
from ...core.run.verification import build_ranges
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...formats.joint_json import write_joint_file
from ...formats.plan_json import plan_data
from ...formats.upgrades.steps import NewerFormat
from ...store import queries, record_acts
from ...store.database import open_transaction
from ...store.errors import EditConflict, NewerVersion, NotAllowed, Unreadable
from ...store.models import Procedure, Revision
from ..clock import get_now
from ..form_tokens import build_token, find_sent_before
from ..planning.planner import cached_plan
from .library_search import list_record
from .states import DRAFT, STATUS_NAMES

# Kinds of acts that can be undone.
CREATED, EDITED, ARCHIVED, RETIRED = "created", "edited", "archived", "retired"


def _read_content(plan: Plan) -> dict[str, Json]:
    return {
        "title": plan.title.text(),
        "joint": write_joint_file(plan.joint),
        "plan": plan_data(plan),
        "bands": build_ranges(plan),
    }


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
    text = f"{owner.label} {letter} was saved."
    record_acts.add_act(CREATED, draft, text, at())
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
        if draft.signatures:
            raise NotAllowed(f"{name} is signed. Save the change as a new draft.")
        before: dict[str, Json] = {key: getattr(draft, key) for key in content}
        for key, value in content.items():
            setattr(draft, key, value)
        draft.edit += 1
        draft.changed_at = at()
        draft.save()
        list_record(draft, plan)
        record_acts.add_act(EDITED, draft, f"{name} was edited.", at(), before=before)
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
        if draft.removed_at is None:
            record_acts.add_act(ARCHIVED, draft, f"{label} {letter} was archived.", at())
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


def retire_procedure(label: str, at: Callable[[], str] = get_now) -> Revision:
    """Retire a procedure: no revision is in the list. Its record stays and can be restored.

    Args:
        label: The procedure.
        at: Current time, UTC.
    """
    moment = at()
    with open_transaction():
        newest = queries.get_revision(label)
        if newest.removed_at is None:
            for revision in queries.list_revisions(newest.procedure):
                if revision.removed_at is None:
                    revision.procedure = newest.procedure
                    _set_removed(revision, moment)
            record_acts.add_act(RETIRED, newest, f"{label} was retired.", moment)
        return queries.get_revision(label)


def restore_procedure(label: str) -> Revision:
    """Restore a retired procedure, with the revisions that were retired with it.

    Args:
        label: The procedure.
    """
    with open_transaction():
        newest = queries.get_revision(label)
        revisions = queries.list_revisions(newest.procedure)
        # A draft that was archived before stays archived.
        moment = max((revision.removed_at or "" for revision in revisions), default="")
        for revision in revisions if newest.removed_at else ():
            if revision.removed_at == moment:
                revision.procedure = newest.procedure
                _set_removed(revision, None)
        return queries.get_revision(label)


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
        return revision.read_plan()
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
