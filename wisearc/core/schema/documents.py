"""Read and write documents by their declarations: plain data, frozen structs and JSON Schema.

A missing field, or null where null has no meaning, has the default of its type.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, Protocol, TypeVar, cast, runtime_checkable

from ..errors import InputError
from ..quantities import get_typed_unit
from . import checks
from .entries import Entry, read_attributes, read_defaults, read_entries
from .figures import cache_by_type
from .json_types import Json

T = TypeVar("T")
SHA256 = r"[0-9a-f]{64}"


def read_document(of: type[T], data: Any, where: str = "", document: str = "") -> T:
    """Build a struct of declared fields from plain data.

    Args:
        of: The type.
        data: Plain data, by key.
        where: The key of the data in its document, "" for the complete document.
        document: The name of the document, such as "a run".

    Returns:
        The struct.

    Raises:
        InputError: A key is unknown or missing, or a value is wrong. The error names key, value and
            rule.
    """
    mapping, table = checks.check_mapping(where or document, data), read_entries(of)
    for key in mapping:
        if key not in table:
            rule = f"is not a key {'here' if where else f'of {document}'}. Allowed keys: "
            raise InputError(_place(where, key), mapping[key], rule + ", ".join(table))
    values = {}
    for key, declared in table.items():
        value = mapping.get(key)
        if value is not None:
            values[read_attributes(of)[key]] = read_value(declared, value, _place(where, key))
        elif key in mapping and declared.null:
            values[read_attributes(of)[key]] = None
        elif declared.required:
            raise InputError(_place(where, key), None, _describe_missing(declared))
    struct = of(**values)
    if _is_checked(of):
        cast("Checked", struct).check(where)
    return struct


@runtime_checkable
class Checked(Protocol):
    """A document with a check across several fields after reading."""

    def check(self, where: str) -> None:
        """Check the fields together.

        Args:
            where: Key in the document.

        Raises:
            InputError: They are inconsistent.
        """


@cache_by_type
def _is_checked(of: type) -> bool:
    return issubclass(of, Checked)


def _describe_missing(declared: Entry) -> str:
    """Return the text for a missing field."""
    if declared.kind == "name":
        return f"{declared.missing}. Give one of {', '.join(declared.allowed())}"
    return f"{declared.missing}. Give it in {declared.unit}" if declared.unit else declared.missing


def _place(where: str, key: str) -> str:
    return f"{where}.{key}" if where else key


def read_value(declared: Entry, value: Any, name: str) -> Any:
    """Read the value of a field.

    Args:
        declared: The field.
        value: Its data, not null.
        name: Field name for the error.

    Raises:
        InputError: The value is wrong.
    """
    match declared.kind:
        case "number":
            checks.check_number(name, value, declared.low, declared.high, _get_unit(declared))
            if declared.sizes and value not in declared.sizes:
                sold = ", ".join(f"{size:g}" for size in declared.sizes)
                raise InputError(
                    name, value, f"must be a size that is sold: {sold} {declared.unit}"
                )
            return value
        case "count":
            checks.check_number(name, value, declared.low, declared.high, declared.unit)
            if int(value) != value:
                limits = f"from {declared.low:g} to {declared.high:g}"
                raise InputError(name, value, f"must be a whole number {limits}")
            return int(value)
        case "name":
            return checks.name(name, value, declared.allowed())
        case "row" if declared.rows is not None:
            return declared.rows()[checks.name(name, value, declared.rows())]
        case "names":
            return _read_names(declared, value, name)
        case "flag":
            if not isinstance(value, bool):
                raise InputError(name, value, f"must be true or false{declared.hint}")
            return value
        case "text":
            return checks.check_line(name, value, int(declared.high))
        case "texts":
            return _read_texts(declared, value, name)
        case "lines":
            return checks.check_text(name, value, int(declared.high))
        case "date":
            return checks.check_date(name, value)
        case "moment":
            return checks.check_moment(name, value)
        case "sha256":
            if not re.fullmatch(SHA256, checks.check_text(name, value, 64)):
                raise InputError(name, value, "must be 64 hexadecimal digits")
            return value
        case "object":
            return read_document(_get_type(declared), value, name)
        case "objects":
            rows = checks.check_rows(name, value, declared.most)
            return tuple(
                read_document(_get_type(declared), row, f"{name}[{i}]")
                for i, row in enumerate(rows)
            )
        case "by-name":
            mapping = checks.check_mapping(name, value)
            return {
                key: read_document(_get_type(declared), row, f"{name}.{key}")
                for key, row in mapping.items()
            }
        case "own" if declared.own is not None:
            return declared.own.read(name, value)
    raise ValueError(f"{name}: no field is read as “{declared.kind}”")


def _read_names(declared: Entry, value: Any, name: str) -> tuple[str, ...]:
    allowed = declared.allowed()
    rows = checks.check_rows(name, value, declared.most or len(allowed))
    names = tuple(checks.name(f"{name}[{i}]", row, allowed) for i, row in enumerate(rows))
    if len(set(names)) != len(names):
        raise InputError(name, ", ".join(names), "must list each name once")
    return names


def _read_texts(declared: Entry, value: Any, name: str) -> tuple[str, ...]:
    rows = checks.check_rows(name, value, declared.most)
    texts = tuple(
        checks.check_line(f"{name}[{i}]", row, int(declared.high)).strip()
        for i, row in enumerate(rows)
    )
    for text in texts:
        if not text:
            raise InputError(name, text, "must each have a name")
        if texts.count(text) > 1:
            raise InputError(name, text, "appears twice. List each name once")
    return texts


def _get_type(declared: Entry) -> type[Any]:
    if declared.of is None:
        raise ValueError(f"{declared.key}: a field with an object needs its type")
    return declared.of


def _get_unit(declared: Entry) -> str:
    return declared.unit or (
        "" if declared.quantity == "plain" else get_typed_unit(declared.quantity)
    )


def write_document(value: object, with_defaults: bool = False) -> dict[str, Json]:
    """Write a struct of declared fields as plain data.

    Args:
        value: The struct.
        with_defaults: Whether fields with their default are written.
    """
    kind = type(value)
    usual, data = read_defaults(kind), dict[str, Json]()
    for key, declared in read_entries(kind).items():
        got = getattr(value, read_attributes(kind)[key])
        if got is None and declared.null:
            data[key] = None
        elif with_defaults or declared.required or key not in usual or got != usual[key]:
            data[key] = _write_value(declared, got, with_defaults)
    return data


def _write_value(declared: Entry, value: Any, with_defaults: bool) -> Json:
    if value is None:
        return None
    if declared.own is not None:
        return declared.own.write(value)
    if declared.kind == "object":
        return write_document(value, with_defaults)
    if declared.kind == "objects":
        return [write_document(item, with_defaults) for item in value]
    if declared.kind == "by-name":
        return {key: write_document(item, with_defaults) for key, item in value.items()}
    if declared.kind == "row":
        return str(value.key)
    if isinstance(value, tuple):
        return list(value)
    data: Json = value
    return data


def build_json_schema(of: type) -> dict[str, Json]:
    """Return the JSON Schema of a struct of declared fields."""
    table = read_entries(of)
    return {
        "type": "object",
        "additionalProperties": False,
        "required": [key for key, declared in table.items() if declared.required],
        "properties": {key: _build_property(declared) for key, declared in table.items()},
    }


def _build_property(declared: Entry) -> dict[str, Json]:
    text = ", ".join(word for word in (declared.label, declared.unit) if word)
    named: dict[str, Json] = {"description": text} if text else {}
    return named | _allow_null(declared)


def _allow_null(declared: Entry) -> dict[str, Json]:
    schema = _build_field_schema(declared)
    if declared.required and not declared.null:
        return schema
    if isinstance(kind := schema.get("type"), str):
        more: dict[str, Json] = {}
        if isinstance(names := schema.get("enum"), list):
            more["enum"] = [*names, None]
        return {**schema, "type": [kind, "null"], **more}
    return {"anyOf": [schema, {"type": "null"}]}


def _build_field_schema(declared: Entry) -> dict[str, Json]:
    line: dict[str, Json] = {
        "type": "string",
        "maxLength": int(declared.high),
        "pattern": f"^{checks.LINE}$",
    }
    limits: Mapping[str, Json] = {"minimum": declared.low, "maximum": declared.high}
    match declared.kind:
        case "number":
            return (
                {"enum": list(declared.sizes)} if declared.sizes else {"type": "number", **limits}
            )
        case "count":
            return {"type": "integer", **limits}
        case "name" | "row":
            return {"type": "string", "enum": list(declared.allowed())}
        case "texts":
            minimum = 1 if declared.required else 0
            texts: Json = line
            return {
                "type": "array",
                "minItems": minimum,
                "maxItems": declared.most,
                "items": texts,
            }
        case "by-name":
            return {
                "type": "object",
                "additionalProperties": build_json_schema(_get_type(declared)),
            }
        case "names":
            allowed: Json = list(declared.allowed())
            items: Json = {"type": "string", "enum": allowed}
            maximum = declared.most or len(declared.allowed())
            return {"type": "array", "uniqueItems": True, "maxItems": maximum, "items": items}
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
            return build_json_schema(_get_type(declared))
        case "objects":
            return {
                "type": "array",
                "maxItems": declared.most,
                "items": build_json_schema(_get_type(declared)),
            }
        case "own" if declared.own is not None:
            return declared.own.schema()
    raise ValueError(f"{declared.key}: no schema for “{declared.kind}”")
