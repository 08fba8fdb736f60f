"""Keeping: drafts, runs, proof, revisions. Every write is one transaction; a form sent twice is taken once."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import UTC, datetime
from typing import Any

from ..core.errors import BadInput
from ..core.joint import Joint
from ..core.plan import make_plan
from ..core.record import bands_of, check_run, why_not_proof
from ..core.shop import ASSUMED, Shop
from ..formats.joint_json import loads, read_joint, write_joint
from ..formats.joint_words import short_title
from ..formats.plan_json import write_plan
from ..formats.schema import check as check_schema
from ..store import queries
from ..store.database import transaction
from ..store.errors import NotAllowed, Stale
from ..store.models import Procedure, Revision, Run

DRAFT, PROVED, SUPERSEDED = "draft", "proved", "superseded"


def now() -> str:
    """The time, UTC, to the second."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _content(joint: Joint, shop: Shop) -> dict[str, Any]:
    plan = write_plan(make_plan(joint, shop))
    return {"title": short_title(joint), "joint": write_joint(joint), "plan": plan, "bands": bands_of(plan)}


def _once(kind: type[Revision] | type[Run], once: str) -> Any:
    return kind.get_or_none(kind.once == once) if once else None


def keep_draft(joint: Joint, once: str = "", shop: Shop = ASSUMED, at: Callable[[], str] = now) -> Revision:
    """Keep a joint's plan as a new draft, revision A, under the next number.

    Parameters: joint; once, a form's token, so that sending it twice keeps it once; shop; at, the clock.
    """
    content = _content(joint, shop)
    with transaction():
        if done := _once(Revision, once):
            return queries.revision(done.procedure.label, done.letter)
        owner = Procedure.create(number=queries.next_number(), created_at=at())
        return Revision.create(procedure=owner, letter="A", status=DRAFT, once=once or None, changed_at=at(), **content)


def save_draft(label: str, joint: Joint, edit: int, shop: Shop = ASSUMED, at: Callable[[], str] = now) -> Revision:
    """Put a changed joint into the standing draft.

    Parameters: edit, the draft's counter when it was read. Raises Stale where another hand saved meanwhile,
    NotAllowed where the newest revision is no draft.
    """
    content = _content(joint, shop)
    with transaction():
        draft = queries.revision(label)
        if draft.status != DRAFT:
            raise NotAllowed(
                f"{label} {draft.letter} is {draft.status} and cannot be edited. Keep the change as a new revision."
            )
        if content["joint"] == draft.joint:
            return draft
        if draft.edit != edit:
            raise Stale(
                f"{label} {draft.letter} was saved by another hand since you opened it. Yours is not lost: compare, then save over it or keep yours as a new draft."
            )
        if Run.select().where(Run.revision == draft).exists():
            raise NotAllowed(
                f"{label} {draft.letter} has runs made to it as it stands. Keep the change as a new draft, so that the runs stay true."
            )
        for key, value in content.items():
            setattr(draft, key, value)
        draft.edit += 1
        draft.changed_at = at()
        draft.save()
        return draft


def revise(label: str, joint: Joint, once: str = "", shop: Shop = ASSUMED, at: Callable[[], str] = now) -> Revision:
    """Keep a change to a proved procedure as the next revision, a draft. Raises NotAllowed with a draft standing."""
    content = _content(joint, shop)
    with transaction():
        if done := _once(Revision, once):
            return queries.revision(label, done.letter)
        newest = queries.revision(label)
        if newest.status == DRAFT:
            raise NotAllowed(f"{label} already has draft {newest.letter}. Change that draft, or prove it first.")
        if content["joint"] == newest.joint:
            raise NotAllowed(f"Nothing differs from {label} {newest.letter}: change a word of the joint first.")
        return Revision.create(
            procedure=newest.procedure,
            letter=next_letter(newest.letter),
            status=DRAFT,
            once=once or None,
            changed_at=at(),
            **content,
        )


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
    """Write down a run of a revision; a good one proves a draft.

    Parameters: run, data of the run format without procedure and revision. Returns the run, and whether it
    proved the revision. Raises BadInput for values that cannot be, or good where the run cannot prove.
    """
    data = {"format": "wisearc/run", "version": 1, **run, "procedure": label, "revision": letter}
    check_schema("run", data)
    check_run(data)
    with transaction():
        if done := _once(Run, once):
            return done, False
        standing = queries.revision(label, letter)
        if standing.status == SUPERSEDED:
            raise NotAllowed(f"{label} {letter} is superseded; make the run to the newest revision.")
        if data["good"] and (why := why_not_proof(data)):
            raise BadInput("good", None, why)
        if data["good"] and any(c["level"] == "stop" for c in standing.plan["cautions"]):
            raise BadInput(
                "good",
                None,
                "the plan holds a stop and cannot be proved as it stands; change the joint first",
            )
        kept = Run.create(
            revision=standing,
            made_on=data["when"],
            record=data,
            good=data["good"],
            once=once or None,
            kept_at=at(),
        )
        proves = data["good"] and standing.status == DRAFT
        if proves:
            _prove(standing, at)
        return kept, proves


def _prove(draft: Revision, at: Callable[[], str]) -> None:
    Revision.update(status=SUPERSEDED).where(
        (Revision.procedure == draft.procedure) & (Revision.status == PROVED)
    ).execute()
    draft.status, draft.proved_at = PROVED, at()
    draft.save()


def write_procedure(revision: Revision) -> dict[str, Any]:
    """A revision with its runs as the data of a procedure file."""
    return {
        "format": "wisearc/procedure",
        "version": 1,
        "number": revision.procedure.label,
        "revision": revision.letter,
        "status": revision.status,
        "title": revision.title,
        "joint": revision.joint,
        "plan": revision.plan,
        "bands": revision.bands,
        "runs": [run.record for run in queries.runs(revision)],
        "signatures": [],
        "changed": revision.changed_at,
        "proved": revision.proved_at,
    }


def read_procedure_text(text: str, once: str = "") -> tuple[Revision, bool]:
    """Take the text of a procedure file into the book; see `read_procedure`."""
    return read_procedure(loads(text, "wisearc/procedure"), once)


def _check_plan(plan: Mapping[str, Any]) -> None:
    """Refuse a plan whose figures do not hold together, beyond what its schema says. Raises BadInput."""
    read_joint(plan["joint"])
    train = [plan["pulse"][key] for key in ("rate_pps", "on_pct", "background_pct", "background_a")]
    if plan["pulse"]["on_pct"] is not None and None in train:
        raise BadInput(
            "plan.pulse", None, "must hold rate_pps, on_pct, background_pct and background_a where it is pulsed"
        )
    if (plan["travel"]["pitch_mm"] is None) != (plan["travel"]["overlap_pct"] is None):
        raise BadInput("plan.travel", None, "must hold both pitch_mm and overlap_pct, or neither")
    if (plan["filler"]["rod"] is None) != (plan["filler"]["diameter_mm"] is None):
        raise BadInput("plan.filler", None, "must hold both rod and diameter_mm, or neither")
    if (plan["slopes"]["start_a"] is None) != (plan["slopes"]["finish_a"] is None):
        raise BadInput("plan.slopes", None, "must hold both start_a and finish_a, or neither")
    tacks = plan["tacks"]
    if sorted(tacks["order"]) != list(range(tacks["count"])) or len(tacks["positions_mm"]) != tacks["count"]:
        raise BadInput(
            "plan.tacks", tacks["count"], "must be the number of positions_mm, and order must name each once"
        )


def read_procedure(data: Any, once: str = "", at: Callable[[], str] = now) -> tuple[Revision, bool]:
    """Take a procedure file into the book, under its own number where that is free, else the next.

    Returns the revision and whether it kept its number. Raises BadInput with key, value and what is allowed.
    """
    if not isinstance(data, dict):
        raise BadInput("file", type(data).__name__, "must be one JSON object with “format”: “wisearc/procedure”")
    check_schema("procedure", data)
    read_joint(data["joint"])
    _check_plan(data["plan"])
    for run in data["runs"]:
        check_run(run)
    if data["status"] == PROVED and not any(run["good"] for run in data["runs"]):
        raise BadInput("status", "proved", "needs a good run among the runs; give the file as draft, or with its run")
    with transaction():
        if done := _once(Revision, once):
            return queries.revision(done.procedure.label, done.letter), True
        number = queries.parse_number(data["number"])
        own = not Procedure.select().where(Procedure.number == number).exists()
        owner = Procedure.create(number=number if own else queries.next_number(), created_at=at())
        kept = Revision.create(
            procedure=owner, letter=data["revision"], status=data["status"], title=data.get("title", ""), joint=data["joint"],
            plan=data["plan"], bands=data["bands"], once=once or None, changed_at=data.get("changed") or at(), proved_at=data.get("proved"),
        )  # fmt: skip
        for run in data["runs"]:
            record = {**run, "procedure": owner.label, "revision": kept.letter}
            Run.create(revision=kept, made_on=run["when"], record=record, good=run["good"], kept_at=at())
        return kept, own
