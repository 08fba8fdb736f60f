"""wisearc/run: a run, and what the library knows of it beside, as JSON."""

import json
from collections.abc import Mapping
from typing import Annotated, Any

from msgspec import Struct

from ..core.errors import InputError
from ..core.run.run import HEAD, MAX_NOTES, Run, read_run, write_run
from ..core.schema import checks
from ..core.schema.documents import read_document
from ..core.schema.entries import Entry, Own
from ..core.schema.json_types import Json, JsonObject
from .joint_json import FORMAT as JOINT
from .joint_json import check_head, load_json, write_joint_file
from .upgrades.steps import upgrade_record

FORMAT, VERSION, MINOR = "wisearc/run", 1, 6
# what the library knows of a run beside it: when it was recorded; when it was voided, and by whom;
# what it said before; when it was left out of the shop history
MORE = ("kept", "voided", "voided_by", "corrections", "left_out")
MAX_CORRECTIONS, MAX_KEY, MAX_WHO = 100, 40, 60


def _read_was(name: str, value: Any) -> JsonObject:
    """What a run said before: a word, a number, yes or no, a list of flaws or nothing, by key."""
    was = checks.check_mapping(name, value)
    if not 1 <= len(was) <= MAX_CORRECTIONS:
        raise InputError(name, f"{len(was)} items", f"must contain 1 to {MAX_CORRECTIONS}")
    for key, one in was.items():
        checks.check_line(name, key, MAX_KEY)
        words = one if isinstance(one, list) else [one]
        for word in checks.check_rows(f"{name}.{key}", words, MAX_CORRECTIONS):
            if isinstance(word, str):
                checks.check_text(f"{name}.{key}", word, MAX_NOTES)
            elif word is not None and not isinstance(word, bool):
                checks.check_number(f"{name}.{key}", word, -1e7, 1e7)
    return was


def _build_was_schema() -> dict[str, Json]:
    one: Json = [
        {"type": "string", "maxLength": MAX_NOTES},
        {"type": "number", "minimum": -1e7, "maximum": 1e7},
        {"type": "boolean"},
        {"type": "null"},
    ]
    many: Json = {"type": "array", "maxItems": MAX_CORRECTIONS, "items": {"anyOf": one}}
    names: Json = {"maxLength": MAX_KEY, "pattern": f"^{checks.LINE}$"}
    return {
        "type": "object",
        "minProperties": 1,
        "maxProperties": MAX_CORRECTIONS,
        "propertyNames": names,
        "additionalProperties": {"anyOf": [*one, many]} if isinstance(one, list) else {},
    }


class Correction(Struct, frozen=True):
    """Who corrected a run, when, and what it said before."""

    when: Annotated[str, Entry("moment", required=True)]
    who: Annotated[str, Entry("text", high=MAX_WHO, required=True)]
    was: Annotated[
        JsonObject, Entry("own", own=Own(_read_was, dict, _build_was_schema), required=True)
    ]


class Beside(Struct, frozen=True):
    """What the library knows of a run beside it."""

    kept: Annotated[str | None, Entry("moment")] = None
    voided: Annotated[str | None, Entry("moment")] = None
    voided_by: Annotated[str | None, Entry("text", high=MAX_WHO)] = None
    left_out: Annotated[str | None, Entry("moment")] = None
    corrections: Annotated[
        tuple[Correction, ...], Entry("objects", of=Correction, most=MAX_CORRECTIONS)
    ] = ()


class RecordedRun(Struct, frozen=True):
    """A run of a file: itself, the minor of the format it was written in, what stands beside it,
    and its data as it was written.
    """

    run: Run
    minor: int
    beside: Beside
    data: JsonObject


def run_record(run: Run, number: str, letter: str) -> dict[str, Json]:
    """The data of a run as it is stored with its revision."""
    head: dict[str, Json] = {"format": FORMAT, "version": VERSION, "minor": MINOR}
    return head | write_run(run) | {"procedure": number, "revision": letter}


def run_file(run: Run, number: str, letter: str, joint: JsonObject) -> dict[str, Json]:
    """A run as a run file, with the joint that it was made to, so that it can be judged alone."""
    return {**run_record(run, number, letter), "joint": write_joint_file(joint)}


def read_record(data: Any) -> Run:
    """The run of data of the run format, of this version or an older one. Raises InputError."""
    told = {k: v for k, v in upgrade_record("run", data).items() if k not in (*HEAD, *MORE)}
    return read_run(told)


def read_recorded(data: Any, where: str) -> RecordedRun:
    """A run as a procedure file has it. Raises InputError, the place named."""
    whole = checks.check_mapping(where, data)
    try:
        run = read_record(data)
        beside = read_document(Beside, {k: whole[k] for k in MORE if k in whole}, what="a run")
    except InputError as error:
        raise InputError(
            f"{where}.{error.field}", error.value, error.rule, error.nearest
        ) from error
    return RecordedRun(run, int(whole.get("minor", 0)), beside, whole)


def read_run_text(text: str) -> Run:
    """The run of a run file of this version or an older one; its `joint`, where it carries one, may
    have the head of a joint file. Raises InputError.
    """
    data = load_json(text, FORMAT)
    check_head(data, FORMAT)
    joint = data.get("joint")
    if isinstance(joint, Mapping) and "format" in joint:
        data = {**data, "joint": check_head(joint, JOINT)}
    return read_record(data)


def measure_size(record: JsonObject) -> int:
    """How many bytes a run takes as it is stored."""
    told = {k: v for k, v in record.items() if k not in MORE}
    return len(json.dumps(told, ensure_ascii=False).encode())
