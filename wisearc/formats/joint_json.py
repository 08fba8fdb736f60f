"""wisearc/joint ↔ Joint."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from ..core.errors import BadInput
from ..core.joint import Joint
from ..core.joint_data import make_joint

FORMAT = "wisearc/joint"
VERSION = 1


def loads(text: str, kind: str = FORMAT) -> Any:
    """JSON text as data. Raises BadInput where it is not JSON, or holds NaN or infinities."""

    def refuse(constant: str) -> Any:
        raise BadInput("file", constant, "is not a number JSON knows; give a finite number")

    try:
        return json.loads(text, parse_constant=refuse)
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        raise BadInput("file", place, f"is not JSON ({error.msg}); give a {kind} file") from error
    except RecursionError as error:
        raise BadInput("file", "too deep", f"is nested too deep; give a {kind} file") from error


def check_head(data: Any, kind: str, version: int = VERSION) -> dict[str, Any]:
    """Refuse data that is no file of a format and version. Returns the rest of it. Raises BadInput."""
    if not isinstance(data, dict):
        raise BadInput("file", type(data).__name__, f"must be one JSON object with “format”: “{kind}”")
    for key, wanted in (("format", kind), ("version", version)):
        if key not in data:
            raise BadInput(key, None, f"is missing; must be {wanted}")
        if data[key] != wanted or isinstance(data[key], bool):
            raise BadInput(key, data[key], f"must be {wanted}")
    return {k: v for k, v in data.items() if k not in ("format", "version")}


def read_joint(data: Any) -> Joint:
    """A joint from the data of a joint file. Raises BadInput with key, value and what is allowed."""
    return make_joint(check_head(data, FORMAT))


def joint_file(data: Mapping[str, Any]) -> dict[str, Any]:
    """A joint's plain data as a joint file has it."""
    return {"format": FORMAT, "version": VERSION, **data}
