"""wisearc/run: a run with its library data, as JSON."""

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

FORMAT, VERSION, MINOR = "wisearc/run", 1, 8
# The library data of a run: date of the record, date and person of voiding, earlier values, and
# date of exclusion from the shop history.
MORE = ("kept", "voided", "voided_by", "corrections", "left_out", "read_off")
MAX_CORRECTIONS, MAX_KEY, MAX_WHO = 100, 40, 60


def _read_was(name: str, value: Any) -> JsonObject:
    """Return the earlier values of a run by key.

    A word, a number, a boolean, a list of flaws or nothing.
    """
    was = checks.check_mapping(name, value)
    if not 1 <= len(was) <= MAX_CORRECTIONS:
        raise InputError(name, f"{len(was)} items", f"must contain 1 to {MAX_CORRECTIONS}")
    for key, item in was.items():
        checks.check_line(name, key, MAX_KEY)
        text = item if isinstance(item, list) else [item]
        for word in checks.check_rows(f"{name}.{key}", text, MAX_CORRECTIONS):
            if isinstance(word, str):
                checks.check_text(f"{name}.{key}", word, MAX_NOTES)
            elif word is not None and not isinstance(word, bool):
                checks.check_number(f"{name}.{key}", word, -1e7, 1e7)
    return was


def _build_was_schema() -> dict[str, Json]:
    value_schema: Json = [
        {"type": "string", "maxLength": MAX_NOTES},
        {"type": "number", "minimum": -1e7, "maximum": 1e7},
        {"type": "boolean"},
        {"type": "null"},
    ]
    many: Json = {"type": "array", "maxItems": MAX_CORRECTIONS, "items": {"anyOf": value_schema}}
    names: Json = {"maxLength": MAX_KEY, "pattern": f"^{checks.LINE}$"}
    return {
        "type": "object",
        "minProperties": 1,
        "maxProperties": MAX_CORRECTIONS,
        "propertyNames": names,
        "additionalProperties": {"anyOf": [*value_schema, many]}
        if isinstance(value_schema, list)
        else {},
    }


class Correction(Struct, frozen=True):
    """A correction of a run: person, date and earlier values."""

    when: Annotated[str, Entry("moment", required=True)]
    who: Annotated[str, Entry("text", high=MAX_WHO, required=True)]
    was: Annotated[
        JsonObject, Entry("own", own=Own(_read_was, dict, _build_was_schema), required=True)
    ]


class LibraryData(Struct, frozen=True):
    """The library data of a run."""

    kept: Annotated[str | None, Entry("moment")] = None
    voided: Annotated[str | None, Entry("moment")] = None
    voided_by: Annotated[str | None, Entry("text", high=MAX_WHO)] = None
    left_out: Annotated[str | None, Entry("moment")] = None
    read_off: Annotated[str | None, Entry("moment")] = None
    corrections: Annotated[
        tuple[Correction, ...], Entry("objects", of=Correction, most=MAX_CORRECTIONS)
    ] = ()


class RecordedRun(Struct, frozen=True):
    """A run of a file.

    The run, the minor version of its format, its library data, and its original data.
    """

    run: Run
    minor: int
    beside: LibraryData
    data: JsonObject


def run_record(run: Run, number: str, letter: str) -> dict[str, Json]:
    """Return the data of a run as stored with its revision.

    Args:
        run: The run.
        number: Procedure number.
        letter: Revision letter.
    """
    head: dict[str, Json] = {"format": FORMAT, "version": VERSION, "minor": MINOR}
    return head | write_run(run) | {"procedure": number, "revision": letter}


def run_file(run: Run, number: str, letter: str, joint: JsonObject) -> dict[str, Json]:
    """Return a run file with the joint of the run, so that the run can be judged alone.

    Args:
        run: The run.
        number: Procedure number.
        letter: Revision letter.
        joint: The joint.
    """
    return {**run_record(run, number, letter), "joint": write_joint_file(joint)}


def read_record(data: Any) -> Run:
    """Parse the data of the run format, of this version or an older one.

    Raises:
        InputError: A value is wrong.
    """
    fields = {k: v for k, v in upgrade_record("run", data).items() if k not in (*HEAD, *MORE)}
    return read_run(fields)


def read_recorded(data: Any, where: str) -> RecordedRun:
    """Parse a run of a procedure file.

    Args:
        data: The data.
        where: Key for errors.

    Raises:
        InputError: A value is wrong.
    """
    fields = checks.check_mapping(where, data)
    try:
        run = read_record(data)
        library_data = read_document(
            LibraryData, {k: fields[k] for k in MORE if k in fields}, document="a run"
        )
    except InputError as error:
        raise InputError(
            f"{where}.{error.field}", error.value, error.rule, error.nearest
        ) from error
    return RecordedRun(run, int(fields.get("minor", 0)), library_data, fields)


def read_run_text(text: str) -> Run:
    """Parse a run file of this version or an older one.

    Its `joint`, if included, can have the head of a joint file.

    Raises:
        InputError: A value is wrong.
    """
    data = load_json(text, FORMAT)
    check_head(data, FORMAT)
    joint = data.get("joint")
    if isinstance(joint, Mapping) and "format" in joint:
        data = {**data, "joint": check_head(joint, JOINT)}
    return read_record(data)


def measure_size(record: JsonObject) -> int:
    """Return the stored size of a run, bytes."""
    fields = {k: v for k, v in record.items() if k not in MORE}
    return len(json.dumps(fields, ensure_ascii=False).encode())
