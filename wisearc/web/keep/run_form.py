"""The form in which a run is written down: reading what was typed, in either unit habit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from werkzeug.datastructures import MultiDict

from ...core.errors import BadInput
from ...core.plan import Plan
from ...core.quantities import Quantity, parse_quantity, unit_of
from ...core.record import PARTS, RunFigure, as_planned


@dataclass
class RunForm:
    """What was typed, by field; what it reads as; and an error by field."""

    typed: dict[str, str]
    faults: list[str]
    data: dict[str, Any] = field(default_factory=dict)
    errors: dict[str, str] = field(default_factory=dict)


def blank(plan: Plan, habit: str) -> RunForm:
    """A form with what the plan says to set, today's date, nothing seen yet."""
    typed = {"when": date.today().isoformat(), "front": "", "back": ""}
    typed |= {f"set.{key}": Quantity(value, kind).number(habit) for key, (value, kind) in as_planned(plan).items()}
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
    for part, known in PARTS.items():
        data[part] = _part(part, known, result, habit)
    for face in ("front", "back"):
        if not typed.get(face):
            result.errors[face] = f"Say what the {face} looks like."
        data[face] = {"colour": typed.get(face)}
    if not data["who"]:
        result.errors["who"] = "Write your initials, so that another hand can ask."
    result.data = data
    return result


def _part(part: str, known: Mapping[str, RunFigure], result: RunForm, habit: str) -> dict[str, float]:
    values: dict[str, float] = {}
    for key, found in known.items():
        name, says = f"{part}.{key}", found.says
        text = result.typed.get(name, "")
        if not text:
            continue
        try:
            value = round(parse_quantity(text, found.quantity, says.label, habit), 3)
            if not says.low <= value <= says.high:
                unit = unit_of(found.quantity)
                raise BadInput(says.label, text, f"must be from {says.low:g} to {says.high:g} {unit}".rstrip())
            values[key] = value
        except BadInput as error:
            result.errors[name] = f"“{text}” {error.rule}."
    return values


def shown(value: float | None, quantity: str, habit: str) -> str:
    """A recorded value with its unit in a habit."""
    return "" if value is None else Quantity(value, quantity).text(habit)
