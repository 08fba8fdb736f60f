"""Documents read and written by their declarations: plain data ↔ frozen dataclasses, and the JSON
Schema of both.

A field that is left out, or null where null says nothing, is what its dataclass has for it.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, TypeVar

from ..errors import BadInput
from ..quantities import unit_of
from . import checks
from .entries import Entry, attributes, defaults, entries
from .json_types import Json

T = TypeVar("T")
SHA256 = r"[0-9a-f]{64}"


def read_document(of: type[T], data: Any, where: str = "", what: str = "") -> T:
    """Make a dataclass of declared fields from plain data.

    Args:
        of: The dataclass.
        data: Plain data, by key.
        where: The key at which the data stands in its document, "" for the whole of it.
        what: What the whole is called, such as "a run".

    Returns:
        The dataclass.

    Raises:
        BadInput: A key is not known or missing, or a value cannot be; names key, value and rule.
    """
    found, table = checks.mapping(where or what, data), entries(of)
    for key in found:
        if key not in table:
            rule = f"is not a key {'here' if where else f'of {what}'}; allowed are "
            raise BadInput(_place(where, key), found[key], rule + ", ".join(table))
    values = {}
    for key, declared in table.items():
        value = found.get(key)
        if value is not None:
            values[attributes(of)[key]] = read_value(declared, value, _place(where, key))
        elif declared.required and not (declared.null and key in found):
            raise BadInput(_place(where, key), None, declared.missing)
    return of(**values)


def _place(where: str, key: str) -> str:
    return f"{where}.{key}" if where else key


def read_value(declared: Entry, value: Any, name: str) -> Any:
    """Read the value of a field.

    Args:
        declared: The field.
        value: Its data, not null.
        name: How the field is named in an error.

    Raises:
        BadInput: The value cannot be.
    """
    match declared.kind:
        case "number":
            checks.number(name, value, declared.low, declared.high, _unit(declared))
            return value
        case "count":
            checks.number(name, value, declared.low, declared.high, declared.unit)
            if int(value) != value:
                raise BadInput(name, value, "must be a whole number")
            return int(value)
        case "name":
            return checks.name(name, value, declared.allowed())
        case "names":
            return _read_names(declared, value, name)
        case "flag":
            if not isinstance(value, bool):
                raise BadInput(name, value, f"must be true or false{declared.hint}")
            return value
        case "text":
            return checks.line(name, value, int(declared.high))
        case "lines":
            return checks.text(name, value, int(declared.high))
        case "date":
            return checks.date(name, value)
        case "moment":
            return checks.moment(name, value)
        case "sha256":
            if not re.fullmatch(SHA256, checks.text(name, value, 64)):
                raise BadInput(name, value, "must be 64 hexadecimal digits")
            return value
        case "object":
            return read_document(_of(declared), value, name)
        case "objects":
            rows = checks.rows(name, value, declared.most)
            return tuple(
                read_document(_of(declared), row, f"{name}[{i}]") for i, row in enumerate(rows)
            )
        case "own" if declared.own is not None:
            return declared.own.read(name, value)
    raise ValueError(f"{name}: no field is read as “{declared.kind}”")


def _read_names(declared: Entry, value: Any, name: str) -> tuple[str, ...]:
    allowed = declared.allowed()
    rows = checks.rows(name, value, declared.most or len(allowed))
    found = tuple(checks.name(f"{name}[{i}]", one, allowed) for i, one in enumerate(rows))
    if len(set(found)) != len(found):
        raise BadInput(name, ", ".join(found), "must name each once")
    return found


def _of(declared: Entry) -> type[Any]:
    if declared.of is None:
        raise ValueError(f"{declared.key}: a field that holds an object says of which dataclass")
    return declared.of


def _unit(declared: Entry) -> str:
    return declared.unit or ("" if declared.quantity == "plain" else unit_of(declared.quantity))


def write_document(value: object, whole: bool = False) -> dict[str, Json]:
    """Write a dataclass of declared fields as plain data; what is as usual is left out, unless it
    is to be whole.
    """
    kind = type(value)
    usual, data = defaults(kind), dict[str, Json]()
    for key, declared in entries(kind).items():
        got = getattr(value, attributes(kind)[key])
        if got is None and declared.null:
            data[key] = None
        elif whole or declared.required or key not in usual or got != usual[key]:
            data[key] = _written(declared, got, whole)
    return data


def _written(declared: Entry, value: Any, whole: bool) -> Json:
    if value is None:
        return None
    if declared.own is not None:
        return declared.own.write(value)
    if declared.kind == "object":
        return write_document(value, whole)
    if declared.kind == "objects":
        return [write_document(one, whole) for one in value]
    if isinstance(value, tuple):
        return list(value)
    found: Json = value
    return found


def json_schema(of: type) -> dict[str, Json]:
    """Describe a dataclass of declared fields as a JSON Schema of an object."""
    table = entries(of)
    return {
        "type": "object",
        "additionalProperties": False,
        "required": [key for key, declared in table.items() if declared.required],
        "properties": {key: _property(declared) for key, declared in table.items()},
    }


def _property(declared: Entry) -> dict[str, Json]:
    named: dict[str, Json] = {"description": declared.label} if declared.label else {}
    return named | _nullable(declared)


def _nullable(declared: Entry) -> dict[str, Json]:
    found = _schema_of(declared)
    if declared.required and not declared.null:
        return found
    if isinstance(kind := found.get("type"), str):
        more: dict[str, Json] = {}
        if isinstance(names := found.get("enum"), list):
            more["enum"] = [*names, None]
        return {**found, "type": [kind, "null"], **more}
    return {"anyOf": [found, {"type": "null"}]}


def _schema_of(declared: Entry) -> dict[str, Json]:
    line: dict[str, Json] = {
        "type": "string",
        "maxLength": int(declared.high),
        "pattern": f"^{checks.LINE}$",
    }
    limits: Mapping[str, Json] = {"minimum": declared.low, "maximum": declared.high}
    match declared.kind:
        case "number":
            return {"type": "number", **limits}
        case "count":
            return {"type": "integer", **limits}
        case "name":
            return {"type": "string", "enum": list(declared.allowed())}
        case "names":
            allowed: Json = list(declared.allowed())
            items: Json = {"type": "string", "enum": allowed}
            most = declared.most or len(declared.allowed())
            return {"type": "array", "uniqueItems": True, "maxItems": most, "items": items}
        case "flag":
            return {"type": "boolean"}
        case "text":
            return line
        case "lines":
            return {"type": "string", "maxLength": int(declared.high)}
        case "date":
            return {"type": "string", "pattern": f"^{checks.DATE}$"}
        case "moment":
            return {"type": "string", "pattern": f"^{checks.MOMENT}$"}
        case "sha256":
            return {"type": "string", "pattern": f"^{SHA256}$"}
        case "object":
            return json_schema(_of(declared))
        case "objects":
            return {
                "type": "array",
                "maxItems": declared.most,
                "items": json_schema(_of(declared)),
            }
        case "own" if declared.own is not None:
            return declared.own.schema()
    raise ValueError(f"{declared.key}: no schema is known of “{declared.kind}”")
