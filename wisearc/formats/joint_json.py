"""wisearc/joint: a joint as JSON."""

from __future__ import annotations

import json
import math
import re
from collections import Counter
from typing import Any

from ..core.errors import InputError
from ..core.joint.data import make_joint
from ..core.joint.joint import Joint
from ..core.schema.json_types import Json, JsonObject

FORMAT = "wisearc/joint"
VERSION = 1


MAX_BYTES = 4 * 1024 * 1024
# The maximum number of objects, lists and values: half more than the fullest procedure file.
MAX_PARTS = 200_000
_MAX_DIGITS = 18
# The pattern matches an unfinished string to the end, so that no text is scanned twice.
_STRING = re.compile(r'"(?:[^"\\]++|\\.)*+(?:"|\\?\Z)', re.DOTALL)
_HALF = re.compile(r"\\u[dD][89a-fA-F]")


def load_json(
    text: str, kind: str = FORMAT, max_bytes: int = MAX_BYTES, max_parts: int = MAX_PARTS
) -> Any:
    """Parse JSON text.

    Refused are NaN and infinities, integers of more than 18 digits, repeated keys of an object,
    single surrogates, and more than the maximum size.

    Args:
        text: The text.
        kind: The format, for the error.
        max_bytes: Maximum size.
        max_parts: Maximum number of objects, lists and values.

    Raises:
        InputError: The text is not JSON or not allowed.
    """
    if len(text) > max_bytes:
        raise InputError(
            "file",
            f"{len(text)} characters",
            f"exceeds {max_bytes // 1048576} MB. Give a {kind} file",
        )
    # Notes are skipped only where necessary.
    if _count_parts(text) > max_parts and _count_parts(_STRING.sub("", text)) > max_parts:
        rule = f"contains more than {max_parts} values. Give a {kind} file"
        raise InputError("file", "", rule)
    try:
        data = json.loads(
            text,
            parse_constant=_refuse,
            parse_int=_parse_integer,
            parse_float=_parse_finite,
            object_pairs_hook=_build_object,
        )
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        rule = f"is not JSON at {place} ({error.msg}). Give a {kind} file"
        raise InputError("file", "", rule) from error
    except RecursionError as error:
        raise InputError("file", "", f"is nested too deep. Give a {kind} file") from error
    if _HALF.search(text):
        try:
            json.dumps(data, ensure_ascii=False).encode()
        except UnicodeEncodeError as error:
            rule = "contains half of a character, such as \\ud800. Save the file as UTF-8 text"
            raise InputError("file", "", rule) from error
    return data


def _count_parts(text: str) -> int:
    """Return the number of objects, lists and further values in JSON text."""
    return text.count("{") + text.count("[") + text.count(",")


def _refuse(constant: str) -> Any:
    raise InputError("file", constant, "is not a JSON number. Give a finite number")


def _parse_integer(digits: str) -> int:
    if len(digits.lstrip("-")) > _MAX_DIGITS:
        raise InputError(
            "file",
            digits,
            f"is a number of more than {_MAX_DIGITS} digits. Give a shorter number",
        )
    return int(digits)


def _parse_finite(text: str) -> float:
    value = float(text)
    return value if math.isfinite(value) else _refuse(text)


def _build_object(pairs: list[tuple[str, Any]]) -> dict[str, Json]:
    values = dict(pairs)
    if len(values) < len(pairs):
        twice, _ = Counter(key for key, _ in pairs).most_common(1)[0]
        raise InputError(twice, None, "appears twice in one object. Give it once")
    return values


def check_head(data: Any, kind: str, version: int = VERSION) -> dict[str, Json]:
    """Check the format and the version of a file, and return the rest of its data.

    Args:
        data: The data.
        kind: The format.
        version: The newest known version.

    Raises:
        InputError: The data is not such a file.
    """
    if not isinstance(data, dict):
        raise InputError(
            "file", type(data).__name__, f"must be one JSON object with “format”: “{kind}”"
        )
    for key, wanted in (("format", kind), ("version", version)):
        if key not in data:
            raise InputError(key, None, f"is missing. It must be {wanted}")
        if data[key] != wanted or isinstance(data[key], bool):
            raise InputError(key, data[key], f"must be {wanted}")
    return {k: v for k, v in data.items() if k not in ("format", "version")}


def read_joint(data: Any) -> Joint:
    """Parse a joint from the data of a joint file.

    Raises:
        InputError: A value is wrong. The error names key, value and rule.
    """
    return make_joint(check_head(data, FORMAT))


def write_joint_file(data: JsonObject) -> dict[str, Json]:
    """Return the data of a joint file."""
    return {"format": FORMAT, "version": VERSION, **data}
