"""The form in which a run is written down: reading what was typed, in either unit habit."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date
from typing import Any

from werkzeug.datastructures import MultiDict

from ...core.errors import BadInput
from ...core.quantities import L_MIN_PER_CFH, flow, length, parse_length, plain
from ...core.record import MEASURED_FIELDS, SET_FIELDS


@dataclass
class RunForm:
    """What was typed, by field; what it reads as; and an error by field."""

    typed: dict[str, str]
    faults: list[str]
    data: dict[str, Any] = field(default_factory=dict)
    errors: dict[str, str] = field(default_factory=dict)


def blank(plan: dict[str, Any], habit: str) -> RunForm:
    """A form with what the plan says to set, today's date, nothing seen yet."""
    typed = {"when": date.today().isoformat(), "front": "", "back": ""}
    settings = {
        "current_a": plan["current"]["machine_a"],
        "rate_pps": plan["pulse"]["rate_pps"] if plan["pulse"]["on_pct"] else None,
        "on_pct": plan["pulse"]["on_pct"],
        "background_pct": plan["pulse"]["background_pct"],
        "flow_l_min": plan["gas"]["flow_l_min"],
        "postflow_s": plan["gas"]["postflow_s"],
    }
    for key, value in settings.items():
        kind = SET_FIELDS[key][4]
        if value is None:
            typed[f"set.{key}"] = ""
        elif kind == "flow":
            typed[f"set.{key}"] = flow(value).number(habit)
        else:
            typed[f"set.{key}"] = plain(value, 0 if key == "current_a" else 1)
    return RunForm(typed, [])


def read(form: MultiDict[str, str], habit: str) -> RunForm:
    """Read a sent form. Errors stand by field; `data` is the run where there are none."""
    typed = {key: form.get(key, "").strip() for key in form}
    result = RunForm(typed, form.getlist("faults"))
    data: dict[str, Any] = {
        "who": typed.get("who", ""),
        "machine": typed.get("machine", ""),
        "notes": form.get("notes", ""),
        "faults": result.faults,
        "good": form.get("outcome") == "good",
        "photographs": [],
    }
    try:
        data["when"] = date.fromisoformat(typed.get("when", "")).isoformat()
    except ValueError:
        result.errors["when"] = f"“{typed.get('when', '')}” is not a date; write it as 2026-03-31."
    for part, fields in (("set", SET_FIELDS), ("measured", MEASURED_FIELDS)):
        data[part] = _part(part, fields, result, habit)
    for face in ("front", "back"):
        if not typed.get(face):
            result.errors[face] = f"Say what the {face} looks like."
        data[face] = {"colour": typed.get(face)}
    if not data["who"]:
        result.errors["who"] = "Write your initials, so that another hand can ask."
    result.data = data
    return result


def _part(part: str, fields: dict[str, Any], result: RunForm, habit: str) -> dict[str, float]:
    values: dict[str, float] = {}
    for key, (label, low, high, unit, kind) in fields.items():
        name = f"{part}.{key}"
        text = result.typed.get(name, "")
        if not text:
            continue
        try:
            value = _value(text, kind, habit, label)
            if not low <= value <= high:
                raise BadInput(label, text, f"must be from {low:g} to {high:g} {unit}".rstrip())
            values[key] = value
        except BadInput as error:
            result.errors[name] = f"“{text}” {error.rule}."
    return values


def _value(text: str, kind: str, habit: str, label: str) -> float:
    if kind == "length":
        return parse_length(text, label, bare_unit="in" if habit == "in" else "mm").mm
    try:
        number = float(text.replace(",", ".").replace("−", "-"))
    except ValueError as error:
        raise BadInput(label, text, "must be a number") from error
    return round(number * L_MIN_PER_CFH, 3) if kind == "flow" and habit == "in" else number


def units(kind: str, unit: str, habit: str) -> str:
    """The unit a field is typed in."""
    if habit == "in":
        return {"flow": "CFH", "length": "in"}.get(kind, unit)
    return unit


def shown(value: float | None, kind: str, unit: str, habit: str) -> str:
    """A recorded value with its unit in a habit."""
    if value is None:
        return ""
    if kind == "length":
        return length(value).text(habit)
    if kind == "flow":
        return flow(value).text(habit)
    return f"{plain(value, 1)} {unit}".rstrip()
