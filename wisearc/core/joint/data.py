"""Convert plain data to a Joint and back.

Each key is checked by its declaration, then the complete joint.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..errors import InputError
from ..plan.pins import check_pins
from ..quantities import exact
from ..reasons import Sentence
from ..schema import checks
from ..schema.entries import Entry, read_attributes, read_entries
from ..schema.json_types import Json, JsonObject
from ..typed_quantities import Length, parse_length, scale_for
from .joint import ALL_ROUND, HEAVY_FORMS, Joint, Member, Pins
from .rules import check_joint, check_member

MAX_SHEET_MM = 6.0
AGREE_MM = 1e-4


def make_joint(data: JsonObject) -> Joint:
    """Check plain data and build the joint.

    Args:
        data: The keys of a joint file without `format` and `version`.

    Raises:
        InputError: A value is wrong. UnknownName and OutOfRange name key, value and rule.

    >>> sheet = {"metal": "304L", "thickness": "16 ga"}
    >>> make_joint({"joint": "butt", "members": [sheet, sheet]}).members[0].thickness_mm
    1.5875
    """
    table = read_entries(Joint)
    _refuse_unknown(data, ("members", "pins", *_list_keys(table)), "joint")
    values = {
        read_attributes(Joint)[key]: _read_value(declared, data) for key, declared in table.items()
    }
    raw = data.get("members")
    if not isinstance(raw, list | tuple) or not 2 <= len(raw) <= 3:
        raise InputError(
            "members", "" if raw is None else raw, "must be a list of two or three members"
        )
    values["members"] = tuple(_read_member(f"members[{i}]", item) for i, item in enumerate(raw))
    values["pins"] = Pins(check_pins({} if data.get("pins") is None else data["pins"]))
    joint = Joint(**values)
    check_joint(joint)
    return joint


def joint_data(joint: Joint) -> dict[str, Json]:
    """Return the plain data of a joint with every key and with lengths as typed."""
    data = _write_member(joint)
    data["members"] = [_member_data(member) for member in joint.members]
    return data | {"pins": dict(joint.pins)}


def echoed_data(joint: Joint) -> dict[str, Json]:
    """Return the plain data of a joint as a plan saves it.

    Each thickness and diameter is in mm and as typed.
    """
    data, members = joint_data(joint), []
    for member in joint.members:
        row = _member_data(member) | {"thickness_mm": member.thickness_mm}
        members.append(row | ({"diameter_mm": member.diameter.mm} if member.diameter else {}))
    return data | {"members": members}


def _member_data(member: Member) -> dict[str, Json]:
    fields = _write_member(member).items()
    return {k: v for k, v in fields if v is not None and (k, v) != ("coating", "none")}


def _write_member(value: Joint | Member) -> dict[str, Json]:
    data: dict[str, Json] = {}
    names = read_attributes(type(value))
    for key, declared in read_entries(type(value)).items():
        got = getattr(value, names[key])
        if declared.kind == "length":
            data |= length_data(key, got)
        else:
            data[key] = got.key if declared.kind == "row" else got
    return data


def length_data(key: str, value: Length | None) -> dict[str, Json]:
    """Return a length as a file has it.

    Args:
        key: Key without its unit.
        value: The length, or None.

    Returns:
        NAME_mm as a number or NAME as typed; nothing for None.
    """
    if value is None:
        return {}
    return {f"{key}_mm": value.mm} if value.typed == f"{value.mm:g} mm" else {key: value.typed}


def _list_keys(table: Mapping[str, Entry]) -> list[str]:
    """Return the possible keys of the fields of a table."""
    return [
        name
        for key, e in table.items()
        for name in ((key, f"{key}_mm") if e.kind == "length" else (key,))
    ]


def _refuse_unknown(
    data: JsonObject, allowed: tuple[str, ...], label: str, where: str = ""
) -> None:
    for key in data:
        if key not in allowed:
            rule = f"is not a key of a {label}. Allowed keys: " + ", ".join(sorted(allowed))
            raise InputError(f"{where}{key}", data[key], rule)


def _read_member(where: str, raw: Any) -> Member:
    if not isinstance(raw, Mapping):
        raise InputError(where, raw, "must be an object with metal, form and thickness")
    table = read_entries(Member)
    _refuse_unknown(raw, tuple(_list_keys(table)), "member", f"{where}.")
    values = {
        key: _read_value(table[key], raw, f"{where}.") for key in ("metal", "form", "coating")
    }
    scale = scale_for(values["metal"].kind, values["form"], values["coating"])
    maximum = table["thickness"].high if values["form"] in HEAVY_FORMS else MAX_SHEET_MM
    for key, high in (("thickness", maximum), ("diameter", table["diameter"].high)):
        values[key] = _read_length(table[key], raw, f"{where}.", scale, high)
    member = Member(**values)
    check_member(where, member)
    return member


def _read_value(declared: Entry, data: JsonObject, where: str = "") -> Any:
    """Return the value of a field.

    Raises:
        InputError: The data is wrong.
    """
    key, value = declared.key, data.get(declared.key)
    name = where + key
    if declared.kind == "length":
        return _read_length(declared, data, where, "stainless", declared.high)
    if key not in data and not declared.required:
        value = declared.usual
    if value is None and declared.usual is None and not declared.required:
        return None
    if declared.kind == "number":
        return checks.check_number(name, value, declared.low, declared.high, declared.unit)
    if declared.kind == "text":
        return checks.check_line(name, value, int(declared.high))
    allowed = declared.rows() if declared.rows else declared.allowed()
    if declared.required and key not in data:
        raise InputError(name, None, "is missing. Give one of " + ", ".join(allowed))
    parsed = checks.name(name, value, allowed)
    return declared.rows()[parsed] if declared.rows else parsed


def _read_length(
    declared: Entry, data: JsonObject, where: str, scale: str, high: float
) -> Length | None:
    key, name, low = declared.key, where + declared.key, declared.low
    text, mm = data.get(key), data.get(f"{key}_mm")
    if text is not None and mm is not None:
        return _match_lengths(name, key, text, mm, scale, (low, high))
    if mm is not None:
        value = checks.check_number(f"{name}_mm", mm, low, high, "mm")
        return Length(value, f"{value:g} mm")
    if text is None and declared.required:
        raise InputError(name, "", "is missing. Type a thickness such as 1.6 mm, 16 ga or .065")
    text = declared.usual if text is None else text
    if text is None:
        return None
    if not isinstance(text, str):
        raise InputError(
            name, text, f"must be text with its unit, such as “1.6 mm”. For a number use {key}_mm"
        )
    if text == ALL_ROUND and key == "length":
        return Length(0.0, ALL_ROUND)
    parsed = parse_length(text, name, scale)
    return _check_limits(parsed, name, text, low, high)


def _match_lengths(
    name: str, key: str, text: Any, mm: Any, scale: str, limits: tuple[float, float]
) -> Length:
    """Return a length that is given as text and in mm, as in a plan.

    Raises:
        InputError: The two disagree.
    """
    value = checks.check_number(f"{name}_mm", mm, *limits, "mm")
    if text == ALL_ROUND and key == "length":
        raise InputError(
            name, text, f"is the whole tube, but {key}_mm is {value:g}. Give one of them"
        )
    if not isinstance(text, str):
        raise InputError(
            name, text, f"must be text with its unit, such as “1.6 mm”. For a number use {key}_mm"
        )
    parsed = parse_length(text, name, scale)
    if abs(parsed.mm - value) > AGREE_MM:
        raise InputError(
            name, text, f"is {parsed.mm:g} mm, but {key}_mm is {value:g}. Give one of them"
        )
    return parsed


def _check_limits(parsed: Length, name: str, text: str, low: float, high: float) -> Length:
    if not low <= parsed.mm <= high:
        nearest = f"{low if parsed.mm < low else high:g} mm"
        figures = {"v": exact(parsed.mm), "low": exact(low), "high": exact(high)}
        raise InputError(
            name, text, Sentence("is {v}, but must be from {low} to {high}", **figures), nearest
        )
    return parsed
