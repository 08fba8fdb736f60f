"""Keeping: drafts, runs, proof, revisions. Every change is one transaction; a form sent twice is taken once."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import UTC, datetime
from typing import Any

from ..core.errors import BadInput
from ..core.joint import Joint
from ..core.plan import Plan, make_plan
from ..core.record import bands_of, why_not_proof
from ..core.shop import Shop
from ..formats.joint_json import joint_file, loads
from ..formats.plan_json import plan_data
from ..formats.procedure_json import ProcedureFile, read_procedure_file, run_file
from ..store import queries
from ..store.database import transaction
from ..store.errors import NotAllowed, Stale
from ..store.models import Procedure, Revision, Run
from .finding import list_record

DRAFT, PROVED, SUPERSEDED = "draft", "proved", "superseded"


def now() -> str:
    """The time, UTC, to the second."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _content(plan: Plan) -> dict[str, Any]:
    return {
        "title": plan.title.text(), "joint": joint_file(plan.joint), "plan": plan_data(plan), "bands": bands_of(plan),
    }  # fmt: skip


def _once(kind: type[Revision] | type[Run], once: str) -> Any:
    return kind.get_or_none(kind.once == once) if once else None


def keep_draft(joint: Joint, shop: Shop, once: str = "", at: Callable[[], str] = now) -> Revision:
    """Keep a joint's plan as a new draft, revision A, under the next number.

    Parameters: joint; shop; once, a form's token, so that sending it twice keeps it once; at, the clock.
    """
    plan = make_plan(joint, shop)
    with transaction():
        if done := _once(Revision, once):
            return queries.revision(done.procedure.label, done.letter)
        owner = Procedure.create(number=queries.next_number(), created_at=at())
        return _add(owner, "A", once, at, plan)


def _add(owner: Procedure, letter: str, once: str, at: Callable[[], str], plan: Plan) -> Revision:
    draft: Revision = Revision.create(
        procedure=owner, letter=letter, status=DRAFT, once=once or None, changed_at=at(), **_content(plan)
    )
    list_record(draft, plan)
    return draft


def save_draft(label: str, joint: Joint, edit: int, shop: Shop, at: Callable[[], str] = now) -> Revision:
    """Put a changed joint into the standing draft.

    Parameters: edit, the draft's counter when it was read. Raises Stale where another hand saved meanwhile,
    NotAllowed where the newest revision is no draft.
    """
    plan = make_plan(joint, shop)
    content = _content(plan)
    with transaction():
        draft = queries.revision(label)
        name = f"{label} {draft.letter}"
        if draft.status != DRAFT:
            raise NotAllowed(f"{name} is {draft.status} and cannot be edited. Keep the change as a new revision.")
        if content["joint"] == draft.joint:
            return draft
        if draft.edit != edit:
            words = "was saved by another hand since you opened it. Yours is not lost: compare, then save over it or keep yours as a new draft."
            raise Stale(f"{name} {words}")
        if Run.select().where(Run.revision == draft).exists():
            words = "has runs made to it as it stands. Keep the change as a new draft, so that the runs stay true."
            raise NotAllowed(f"{name} {words}")
        for key, value in content.items():
            setattr(draft, key, value)
        draft.edit += 1
        draft.changed_at = at()
        draft.save()
        list_record(draft, plan)
        return draft


def revise(label: str, joint: Joint, shop: Shop, once: str = "", at: Callable[[], str] = now) -> Revision:
    """Keep a change to a proved procedure as the next revision, a draft. Raises NotAllowed with a draft standing."""
    plan = make_plan(joint, shop)
    with transaction():
        if done := _once(Revision, once):
            return queries.revision(label, done.letter)
        newest = queries.revision(label)
        if newest.status == DRAFT:
            raise NotAllowed(f"{label} already has draft {newest.letter}. Change that draft, or prove it first.")
        if joint_file(plan.joint) == newest.joint:
            raise NotAllowed(f"Nothing differs from {label} {newest.letter}: change a word of the joint first.")
        return _add(newest.procedure, next_letter(newest.letter), once, at, plan)


def next_letter(letter: str) -> str:
    """The letter after.

    >>> next_letter("A"), next_letter("Z"), next_letter("AZ")
    ('B', 'AA', 'BA')
    """
    if letter[-1] != "Z":
        return letter[:-1] + chr(ord(letter[-1]) + 1)
    return (next_letter(letter[:-1]) if len(letter) > 1 else "A") + "A"


def record_run(
    label: str, letter: str, run: Mapping[str, Any], once: str = "", at: Callable[[], str] = now
) -> tuple[Run, bool]:
    """Take down a run of a revision; a good one proves a draft.

    Parameters: run, data of the run format without procedure and revision. Returns the run, and whether it
    proved the revision. Raises BadInput for values that cannot be, or good where the run cannot prove.
    """
    record = run_file(run, label, letter)
    with transaction():
        if done := _once(Run, once):
            return done, False
        standing = queries.revision(label, letter)
        if standing.status == SUPERSEDED:
            raise NotAllowed(f"{label} {letter} is superseded; make the run to the newest revision.")
        if record["good"] and (why := why_not_proof(record)):
            raise BadInput("good", None, why)
        if record["good"] and any(c["level"] == "stop" for c in standing.plan["cautions"]):
            words = "the plan holds a stop and cannot be proved as it stands; change the joint first"
            raise BadInput("good", None, words)
        kept = Run.create(
            revision=standing, made_on=record["when"], record=record, good=record["good"], once=once or None, kept_at=at(),
        )  # fmt: skip
        proves = record["good"] and standing.status == DRAFT
        if proves:
            _prove(standing, at)
        list_record(standing)
        return kept, proves


def _prove(draft: Revision, at: Callable[[], str]) -> None:
    for before in queries.revisions(draft.procedure):
        if before.status == PROVED:
            before.procedure, before.status = draft.procedure, SUPERSEDED
            before.save(only=[Revision.status])
            list_record(before)
    draft.status, draft.proved_at = PROVED, at()
    draft.save(only=[Revision.status, Revision.proved_at])


def file_of(revision: Revision) -> ProcedureFile:
    """A revision with its runs as a procedure file holds it: as it was kept, whatever today's rules make of it."""
    return ProcedureFile(
        revision.procedure.label, revision.letter, revision.status, revision.title, revision.joint, revision.plan, revision.bands,
        [run.record for run in queries.runs(revision)], revision.signatures, revision.changed_at, revision.proved_at,
    )  # fmt: skip


def take_procedure_text(text: str, once: str = "") -> tuple[Revision, str]:
    """Take the text of a procedure file into the book; see `take_procedure`."""
    return take_procedure(loads(text, "wisearc/procedure"), once)


def take_procedure(data: Any, once: str = "", at: Callable[[], str] = now) -> tuple[Revision, str]:
    """Take a procedure file into the book, under its own number where that is free, else the next.

    Returns the revision and what came of it: "own" number, "renumbered", or "known" where the book holds it already.
    Raises BadInput with key, value and what is allowed.
    """
    given, plan = read_procedure_file(data)
    if given.status == PROVED and not any(run["good"] for run in given.runs):
        raise BadInput("status", "proved", "needs a good run among the runs; give the file as draft, or with its run")
    with transaction():
        if done := _once(Revision, once):
            return queries.revision(done.procedure.label, done.letter), "own"
        number = queries.parse_number(given.number)
        if known := _known(given):
            return known, "known"
        own = queries.find_procedure(number) is None
        owner = Procedure.create(number=number if own else queries.next_number(), created_at=at())
        taken = Revision.create(
            procedure=owner, letter=given.letter, status=given.status, title=given.title, joint=given.joint, plan=given.plan, bands=given.bands,
            signatures=given.signatures, taken_as=given.number, once=once or None, changed_at=given.changed or at(), proved_at=given.proved,
        )  # fmt: skip
        for run in given.runs:
            record = {**run, "procedure": owner.label, "revision": taken.letter}
            Run.create(revision=taken, made_on=run["when"], record=record, good=run["good"], kept_at=at())
        list_record(taken, plan)
        return taken, "own" if own else "renumbered"


def _known(given: ProcedureFile) -> Revision | None:
    """The revision that a file was taken into, or written from, if it still holds all that the file does; else None."""

    def content(run: Mapping[str, Any]) -> dict[str, Any]:
        return {k: v for k, v in run.items() if k not in ("procedure", "revision")}

    for like in queries.revisions_like(given.letter, given.plan):
        its_own = given.number in (like.procedure.label, like.taken_as)
        same = its_own and all(getattr(like, k) == getattr(given, k) for k in ("joint", "bands", "title", "signatures"))
        runs = [content(run.record) for run in queries.runs(like)]
        if same and all(content(run) in runs for run in given.runs):
            return like
    return None
