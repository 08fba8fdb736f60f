"""wisearc/procedure and wisearc/run: a revision with its runs, as a file has it."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..core.errors import BadInput
from ..core.plan.plan import Plan
from ..core.run.record import LENGTHS, MOST_RUNS, MOST_TEXT, check_run
from ..core.run.verification import check_bands, check_proof
from ..core.schema import checks
from .declared import check_keys
from .joint_json import check_head, loads
from .plan_json import check_joint_shape, check_words, read_plan
from .upgrades.steps import lifted

FORMAT, RUN_FORMAT, VERSION, MINOR = "wisearc/procedure", "wisearc/run", 1, 6
STATES = ("draft", "proved", "superseded")
NUMBER, LETTER = r"P-(?!0000$)([0-9]{4}|[1-9][0-9]{4,5})", r"[A-Z]{1,3}"
NEEDED = ("number", "revision", "status", "joint", "plan", "bands", "runs")
MORE = ("minor", "title", "signatures", "changed", "proved", "created", "taken_as", "removed")
# what the book knows of a run beside it: when it was written down; when it was struck out, and by
# whom; what it said before; when it was left out of the own record
RUN_MORE = ("kept", "voided", "voided_by", "corrections", "left_out")
MOST_CORRECTIONS, LONGEST_KEY = 100, 40
MOST_BANDS, MOST_SIGNATURES, LONGEST_TITLE, LONGEST_WHO = 50, 100, 300, 60


@dataclass(frozen=True)
class ProcedureFile:
    """What a procedure file holds: joint, plan and runs as they were written."""

    number: str
    letter: str
    status: str
    title: str
    joint: Mapping[str, Any]
    plan: Mapping[str, Any]
    bands: Mapping[str, Any]
    runs: list[dict[str, Any]]
    signatures: list[Any]
    changed: str | None
    proved: str | None
    created: str | None = None
    taken_as: str | None = None
    removed: str | None = None


def procedure_file(of: ProcedureFile) -> dict[str, Any]:
    """The data of a procedure file."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "minor": MINOR,
        "number": of.number,
        "revision": of.letter,
        "status": of.status,
        "title": of.title,
        "joint": of.joint,
        "plan": of.plan,
        "bands": of.bands,
        "runs": of.runs,
        "signatures": of.signatures,
        "changed": of.changed,
        "proved": of.proved,
        "created": of.created,
        "taken_as": of.taken_as,
        "removed": of.removed,
    }


def run_file(run: Mapping[str, Any], number: str, letter: str) -> dict[str, Any]:
    """The data of a run file, checked. Parameters: run, without its head. Raises BadInput."""
    data = {**run, "procedure": number, "revision": letter}
    check_run(data)
    return {"format": RUN_FORMAT, "version": VERSION, "minor": MINOR, **data}


def read_run_text(text: str) -> dict[str, Any]:
    """The run of a run file of this version or an older one, checked; `joint`, where it carries
    one. Raises BadInput.
    """
    data = loads(text, RUN_FORMAT)
    check_head(data, RUN_FORMAT)
    run = {
        k: v
        for k, v in lifted("run", data).items()
        if k not in ("format", "version", "minor", *RUN_MORE)
    }
    check_run(run)
    return run


def read_procedure_file(data: Any) -> tuple[ProcedureFile, Plan]:
    """What a procedure file of this version or an older one holds, and its plan as it reads.

    Raises BadInput with key, value and what is allowed.
    """
    check_head(data, FORMAT)
    data = lifted("procedure", data)
    check_keys(data, ("format", "version", *NEEDED), "", MORE)
    _matching(data, "number", NUMBER, "a number such as P-0003, of at most six digits")
    _matching(data, "revision", LETTER, "a letter such as A")
    checks.name("status", data["status"], STATES)
    joint = check_joint_shape(data["joint"], "joint")
    runs = checks.rows("runs", data["runs"], MOST_RUNS)
    signatures = checks.rows("signatures", data.get("signatures", []), MOST_SIGNATURES)
    for i, signature in enumerate(signatures):
        check_words(signature, f"signatures[{i}]")
    for i, run in enumerate(runs):
        _check_run(run, f"runs[{i}]")
    plan = read_plan(data["plan"])
    if joint != check_joint_shape(data["plan"]["joint"], "plan.joint"):
        raise BadInput(
            "joint", None, "must be the joint that the plan is of; plan.joint says otherwise"
        )
    bands = _bands(data["bands"])
    check_bands(bands, plan)
    moments = {
        key: None if data.get(key) is None else checks.moment(key, data[key])
        for key in ("changed", "proved", "created", "removed")
    }
    _check_state(data, plan, moments)
    if data.get("taken_as") is not None:
        _matching(data, "taken_as", NUMBER, "the number it was taken from")
    return (
        ProcedureFile(
            data["number"],
            data["revision"],
            data["status"],
            checks.line("title", data.get("title", ""), LONGEST_TITLE),
            data["joint"],
            data["plan"],
            bands,
            runs,
            signatures,
            taken_as=data.get("taken_as"),
            **moments,
        ),
        plan,
    )


def _check_state(data: Mapping[str, Any], plan: Plan, moments: Mapping[str, str | None]) -> None:
    """Refuse a state that a record made here could not be in. Raises BadInput."""
    status = data["status"]
    check_proof(
        status, [run for run in data["runs"] if run.get("voided") is None], plan, data["bands"]
    )
    if status == "draft" and moments["proved"]:
        raise BadInput("proved", moments["proved"], "must be null for a draft")
    if status != "draft" and not moments["proved"]:
        raise BadInput("proved", None, "is missing: the moment it was proved")
    if status != "draft" and moments["removed"]:
        raise BadInput("removed", moments["removed"], "must be null: only a draft can be put away")
    if sum(map(text_size, data["runs"])) > MOST_TEXT:
        raise BadInput(
            "runs", f"{len(data['runs'])} runs", f"must come to at most {MOST_TEXT} bytes"
        )


def text_size(run: Mapping[str, Any]) -> int:
    """How many bytes a run takes as it is kept."""
    return len(
        json.dumps({k: v for k, v in run.items() if k not in RUN_MORE}, ensure_ascii=False).encode()
    )


def _matching(data: Mapping[str, Any], key: str, pattern: str, what: str) -> None:
    if not re.fullmatch(pattern, checks.text(key, data[key], 20)):
        raise BadInput(key, data[key], f"must be {what}")


def _check_run(run: Any, where: str) -> None:
    if not isinstance(run, dict):
        raise BadInput(where, run, "must be an object")
    head = lifted("run", run)
    try:
        check_run(
            {k: v for k, v in head.items() if k not in ("format", "version", "minor", *RUN_MORE)}
        )
        for key in ("kept", "voided", "left_out"):
            if head.get(key) is not None:
                checks.moment(key, head[key])
        if head.get("voided_by") is not None:
            checks.line("voided_by", head["voided_by"], LONGEST_WHO)
        for i, made in enumerate(
            checks.rows("corrections", head.get("corrections", []), MOST_CORRECTIONS)
        ):
            _check_correction(made, f"corrections[{i}]")
    except BadInput as error:
        raise BadInput(f"{where}.{error.field}", error.value, error.rule, error.nearest) from error


def _check_correction(made: Any, where: str) -> None:
    """Who corrected a run, when, and what it said before: a word, a number, a list of faults or
    nothing, by its key.
    """
    found = checks.mapping(where, made)
    checks.keys(where, found, ("when", "who", "was"))
    checks.moment(f"{where}.when", found.get("when"))
    checks.line(f"{where}.who", found.get("who"), LONGEST_WHO)
    was = checks.mapping(f"{where}.was", found.get("was"))
    if not 1 <= len(was) <= MOST_CORRECTIONS:
        raise BadInput(
            f"{where}.was", f"{len(was)} items", f"must hold from 1 to {MOST_CORRECTIONS}"
        )
    for key, value in was.items():
        checks.line(f"{where}.was", key, LONGEST_KEY)
        words = value if isinstance(value, list) else [value]
        for one in checks.rows(f"{where}.was.{key}", words, MOST_CORRECTIONS):
            if isinstance(one, str):
                checks.text(f"{where}.was.{key}", one, LENGTHS["notes"])
            elif one is not None and not isinstance(one, bool):
                checks.number(f"{where}.was.{key}", one, -1e7, 1e7)


def _bands(bands: Any) -> Mapping[str, Any]:
    found = checks.mapping("bands", bands)
    if len(found) > MOST_BANDS:
        raise BadInput("bands", f"{len(found)} items", f"must hold at most {MOST_BANDS}")
    for key, ends in found.items():
        checks.line("bands", key, LONGEST_WHO)
        for end in checks.rows(f"bands.{key}", ends, 2):
            if end is not None:
                checks.number(f"bands.{key}", end, -1e7, 1e7)
        if len(ends) != 2:
            raise BadInput(
                f"bands.{key}",
                f"{len(ends)} items",
                "must be a low and a high end, null for an open one",
            )
    return found
