"""Procedure files: a revision with its runs, written and imported."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

from msgspec.structs import replace

from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.run.run import check_not_in_future
from ...core.schema.json_types import Json, JsonObject
from ...formats.joint_json import MAX_BYTES, load_json
from ...formats.procedure_json import ProcedureFile, read_procedure_file
from ...formats.run_json import MORE as RUN_MORE
from ...store import queries, shop_keys
from ...store.database import open_transaction
from ...store.models import Procedure, Revision, RunRow
from ..clock import get_latest_day, get_now
from ..form_tokens import build_token, find_sent_before
from .faces import check_views
from .judged_signatures import list_key_ids
from .library_search import list_record
from .signatures import merge_signatures

MAX_FILE_BYTES = MAX_BYTES
# The defaults of a run without these values.
MIN_MINOR_VERSION = 1


def build_file(revision: Revision) -> ProcedureFile:
    """Return a revision with its runs for a procedure file.

    It is as saved, independent of the current rules.
    """
    runs = queries.list_runs(revision)
    positions = {run.id: i for i, run in enumerate(runs)}
    return ProcedureFile(
        revision.procedure.label,
        revision.letter,
        revision.status,
        revision.title,
        revision.joint,
        revision.plan,
        revision.bands,
        [_write_run(run) for run in runs],
        revision.signatures,
        revision.changed_at,
        revision.proved_at,
        revision.procedure.created_at,
        revision.taken_as,
        revision.removed_at,
        verified_by=positions.get(revision.verifying_run or 0),
        keys=tuple(shop_keys.list_keys(list_key_ids(revision.signatures))),
        received_from=revision.received_from,
    )


def _write_run(run: RunRow) -> dict[str, Json]:
    """Return a run for a file: its record with its library data."""
    more = {
        "kept": run.kept_at,
        "voided": run.voided_at,
        "voided_by": run.voided_by,
        "left_out": run.left_out,
        "read_off": run.read_off,
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
            shop_keys.add_received(procedure_file.keys, moment)
            merge_signatures(known, procedure_file.signatures)
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
        received_from=procedure_file.received_from,
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
            "read_off": recorded.beside.read_off,
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
    if procedure_file.verified_by is not None:
        taken.verifying_run = queries.list_runs(taken)[procedure_file.verified_by].id
        taken.save(only=[Revision.verifying_run])
    shop_keys.add_received(procedure_file.keys, moment)
    list_record(taken, plan)
    return taken


def find_known_revision(procedure_file: ProcedureFile) -> Revision | None:
    """Return the revision with all contents of a file, or None. Signatures can differ.

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
            for k in ("plan", "joint", "bands", "title")
        )
        if same and {content(run) for run in procedure_file.runs} <= {
            content(run.record) for run in queries.list_runs(like)
        }:
            return like
    return None
