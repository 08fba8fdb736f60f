"""wisearc/procedure and wisearc/run: a revision with its runs, as a file has it."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..core import checks
from ..core.errors import BadInput
from ..core.plan import Plan
from ..core.record import check_run
from .declared import check_keys
from .joint_json import check_head
from .plan_json import check_joint_shape, read_plan
from .upgrades import lifted

FORMAT, RUN_FORMAT, VERSION = "wisearc/procedure", "wisearc/run", 1
STATES = ("draft", "proved", "superseded")
NUMBER, LETTER = r"P-[0-9]{4,9}", r"[A-Z]{1,3}"
NEEDED = ("number", "revision", "status", "joint", "plan", "bands", "runs")
MORE = ("minor", "title", "signatures", "changed", "proved")
MOST_RUNS, MOST_BANDS, MOST_SIGNATURES = 10_000, 50, 100


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


def procedure_file(of: ProcedureFile) -> dict[str, Any]:
    """The data of a procedure file."""
    return {
        "format": FORMAT, "version": VERSION, "number": of.number, "revision": of.letter, "status": of.status, "title": of.title,
        "joint": of.joint, "plan": of.plan, "bands": of.bands, "runs": of.runs, "signatures": of.signatures, "changed": of.changed,
        "proved": of.proved,
    }  # fmt: skip


def run_file(run: Mapping[str, Any], number: str, letter: str) -> dict[str, Any]:
    """The data of a run file, checked. Parameters: run, without its head. Raises BadInput."""
    data = {**run, "procedure": number, "revision": letter}
    check_run(data)
    return {"format": RUN_FORMAT, "version": VERSION, **data}


def read_procedure_file(data: Any) -> tuple[ProcedureFile, Plan]:
    """What a procedure file of this version or an older one holds, and its plan as it reads.

    Raises BadInput with key, value and what is allowed.
    """
    check_head(data, FORMAT)
    data = lifted("procedure", data)
    check_keys(data, ("format", "version", *NEEDED), "", MORE)
    _matching(data, "number", NUMBER, "a number such as P-0003")
    _matching(data, "revision", LETTER, "a letter such as A")
    checks.name("status", data["status"], STATES)
    check_joint_shape(data["joint"], "joint")
    for i, run in enumerate(checks.rows("runs", data["runs"], MOST_RUNS)):
        _check_run(run, f"runs[{i}]")
    signatures = checks.rows("signatures", data.get("signatures", []), MOST_SIGNATURES)
    plan = read_plan(data["plan"])
    return ProcedureFile(
        data["number"], data["revision"], data["status"], checks.text("title", data.get("title", ""), 120), data["joint"], data["plan"],
        _bands(data["bands"]), data["runs"], signatures, _date(data, "changed"), _date(data, "proved"),
    ), plan  # fmt: skip


def _matching(data: Mapping[str, Any], key: str, pattern: str, what: str) -> None:
    if not re.fullmatch(pattern, checks.text(key, data[key], 20)):
        raise BadInput(key, data[key], f"must be {what}")


def _check_run(run: Any, where: str) -> None:
    if not isinstance(run, dict):
        raise BadInput(where, run, "must be an object")
    head = lifted("run", run)
    try:
        check_run({k: v for k, v in head.items() if k not in ("format", "version", "minor")})
    except BadInput as error:
        raise BadInput(f"{where}.{error.field}", error.value, error.rule, error.nearest) from error


def _bands(bands: Any) -> Mapping[str, Any]:
    found = checks.mapping("bands", bands)
    if len(found) > MOST_BANDS:
        raise BadInput("bands", f"{len(found)} items", f"must hold at most {MOST_BANDS}")
    for key, ends in found.items():
        for end in checks.rows(f"bands.{key}", ends, 2):
            if end is not None:
                checks.number(f"bands.{key}", end, -1e7, 1e7)
        if len(ends) != 2:
            raise BadInput(f"bands.{key}", f"{len(ends)} items", "must be a low and a high end, null for an open one")
    return found


def _date(data: Mapping[str, Any], key: str) -> str | None:
    value = data.get(key)
    return None if value is None else checks.text(key, value, 40)
