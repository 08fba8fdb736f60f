"""wisearc/procedure: a revision with its runs, as JSON."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from ..core.errors import InputError
from ..core.plan.plan import Plan
from ..core.run.run import MAX_RUNS, MAX_RUNS_BYTES
from ..core.run.signature import MAX_KEYS, MAX_SIGNATURES, ShopKey, Signature
from ..core.run.verification import Bands, check_bands, check_proof
from ..core.schema import checks
from ..core.schema.documents import read_document, write_document
from ..core.schema.json_types import Json, JsonObject, Unparsed
from .declared import check_keys
from .joint_json import check_head
from .plan_json import check_joint_shape, read_plan
from .run_json import RecordedRun, measure_size, read_recorded
from .signing import check_key
from .upgrades.steps import upgrade_record

FORMAT, VERSION, MINOR = "wisearc/procedure", 1, 8
STATES = ("draft", "waiting", "proved", "superseded")
# The states without a time of verification.
UNVERIFIED_STATES = ("draft", "waiting")
NUMBER, LETTER = r"P-(?!0000$)([0-9]{4}|[1-9][0-9]{4,5})", r"[A-Z]{1,3}"
NEEDED = ("number", "revision", "status", "joint", "plan", "bands", "runs")
MORE = (
    "minor",
    "title",
    "signatures",
    "keys",
    "verified_by",
    "changed",
    "proved",
    "created",
    "taken_as",
    "removed",
    "from",
)
MAX_SHOP = 60
MAX_BANDS, MAX_TITLE_LENGTH, MAX_RANGE_KEY_LENGTH = 50, 300, 60


class ProcedureFile(Struct, frozen=True):
    """The contents of a procedure file.

    Joint, plan and runs as written; `recorded` has the parsed runs. `verified_by` is the position
    of the run that verified it, or None. `keys` has the public keys of its signatures,
    `received_from` the shop that it came from.
    """

    number: str
    letter: str
    status: str
    title: str
    joint: JsonObject
    plan: JsonObject
    bands: Bands
    runs: list[JsonObject]
    signatures: list[JsonObject]
    changed: str | None
    proved: str | None
    created: str | None = None
    taken_as: str | None = None
    removed: str | None = None
    recorded: tuple[RecordedRun, ...] = ()
    verified_by: int | None = None
    keys: tuple[ShopKey, ...] = ()
    received_from: str | None = None


def write_procedure_file(of: ProcedureFile) -> dict[str, Json]:
    """Return the data of a procedure file."""
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
        "keys": [write_document(key, with_defaults=True) for key in of.keys],
        "verified_by": of.verified_by,
        "changed": of.changed,
        "proved": of.proved,
        "created": of.created,
        "taken_as": of.taken_as,
        "removed": of.removed,
        "from": of.received_from,
    }


def read_procedure_file(data: Any) -> tuple[ProcedureFile, Plan]:
    """Parse a procedure file of this version or an older one, and its plan.

    Raises:
        InputError: A value is wrong. The error names key, value and rule.
    """
    check_head(data, FORMAT)
    data = upgrade_record("procedure", data)
    check_keys(data, ("format", "version", *NEEDED), "", MORE)
    _check_pattern(data, "number", NUMBER, "a number such as P-0003, of at most six digits")
    _check_pattern(data, "revision", LETTER, "a letter such as A")
    checks.name("status", data["status"], STATES)
    joint = check_joint_shape(data["joint"], "joint")
    rows = checks.check_rows("runs", data["runs"], MAX_RUNS)
    signatures = checks.check_rows("signatures", data.get("signatures", []), MAX_SIGNATURES)
    for i, signature in enumerate(signatures):
        read_document(Signature, signature, f"signatures[{i}]")
    keys = _read_keys(data.get("keys", []))
    runs = [read_recorded(row, f"runs[{i}]") for i, row in enumerate(rows)]
    plan = read_plan(data["plan"])
    if joint != check_joint_shape(data["plan"]["joint"], "plan.joint"):
        raise InputError("joint", None, "must be the joint of the plan. It differs from plan.joint")
    bands = _write_ranges(data["bands"])
    check_bands(bands, plan)
    moments = {
        key: None if data.get(key) is None else checks.check_moment(key, data[key])
        for key in ("changed", "proved", "created", "removed")
    }
    _check_state(data, runs, plan, moments)
    if data.get("taken_as") is not None:
        _check_pattern(data, "taken_as", NUMBER, "the number from before its import")
    return (
        ProcedureFile(
            data["number"],
            data["revision"],
            data["status"],
            checks.check_line("title", data.get("title", ""), MAX_TITLE_LENGTH),
            data["joint"],
            data["plan"],
            bands,
            [run.data for run in runs],
            signatures,
            taken_as=data.get("taken_as"),
            recorded=tuple(runs),
            verified_by=_find_verifying_run(data, runs),
            keys=keys,
            received_from=_read_sender(data.get("from")),
            **moments,
        ),
        plan,
    )


def _read_sender(value: Any) -> str | None:
    return None if value is None else checks.check_line("from", value, MAX_SHOP) or None


def _read_keys(data: Any) -> tuple[ShopKey, ...]:
    rows = checks.check_rows("keys", data, MAX_KEYS)
    keys = tuple(read_document(ShopKey, row, f"keys[{i}]") for i, row in enumerate(rows))
    for i, key in enumerate(keys):
        check_key(key, f"keys[{i}]")
    return keys


def _find_verifying_run(data: Unparsed, runs: Sequence[RecordedRun]) -> int | None:
    """Return the position of the run that verified a procedure.

    Earlier versions do not name it: it is the first valid good run that was recorded.

    Raises:
        InputError: The named run is not valid and good.
    """
    good = [i for i, run in enumerate(runs) if run.run.good and run.beside.voided is None]
    if data["status"] == "draft" or not good:
        return None
    named = data.get("verified_by")
    if named is None:
        return min(good, key=lambda i: (runs[i].beside.kept or "", i))
    if type(named) is not int or named not in good:
        raise InputError("verified_by", named, "must be the position of a valid good run, from 0")
    return named


def _check_state(
    data: Unparsed,
    runs: Sequence[RecordedRun],
    plan: Plan,
    moments: Mapping[str, str | None],
) -> None:
    """Check that a record made here could have this state.

    Raises:
        InputError: It could not.
    """
    status = data["status"]
    valid_runs = [(run.run, run.minor) for run in runs if run.beside.voided is None]
    check_proof(status, valid_runs, plan, data["bands"])
    is_unverified = status in UNVERIFIED_STATES
    if is_unverified and moments["proved"]:
        rule = "must be null until the revision is verified"
        raise InputError("proved", moments["proved"], rule)
    if not is_unverified and not moments["proved"]:
        raise InputError("proved", None, "is missing. Give the time of verification")
    if sum(measure_size(run.data) for run in runs) > MAX_RUNS_BYTES:
        raise InputError(
            "runs", f"{len(data['runs'])} runs", f"must total at most {MAX_RUNS_BYTES} bytes"
        )


def _check_pattern(data: Unparsed, key: str, pattern: str, label: str) -> None:
    if not re.fullmatch(pattern, checks.check_text(key, data[key], 20)):
        raise InputError(key, data[key], f"must be {label}")


def _write_ranges(bands: Any) -> Bands:
    ranges = checks.check_mapping("bands", bands)
    if len(ranges) > MAX_BANDS:
        raise InputError("bands", f"{len(ranges)} items", f"must contain at most {MAX_BANDS}")
    for key, ends in ranges.items():
        checks.check_line("bands", key, MAX_RANGE_KEY_LENGTH)
        for end in checks.check_rows(f"bands.{key}", ends, 2):
            if end is not None:
                checks.check_number(f"bands.{key}", end, -1e7, 1e7)
        if len(ends) != 2:
            raise InputError(
                f"bands.{key}",
                f"{len(ends)} items",
                "must be a lower and an upper limit, with null for none",
            )
    return ranges
