"""The form in which a run is written down: reading what was typed, in either unit habit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from werkzeug.datastructures import MultiDict

from ...core import checks
from ...core.errors import BadInput, in_few_words
from ...core.plan import Plan
from ...core.quantities import HABITS, Quantity, parse_quantity, typed_with_unit, unit_of
from ...core.record import PARTS, RunFigure, as_planned

FIELDS = ("when", "who", "machine", "front", "back", "faults", "notes", "good")


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
    """Read a sent form. Errors stand by field; `data` is the run where there are none.

    Parameters: habit, of the page that is shown now. A figure means what it meant on the page it was typed on, which the
    form says; where that was in the other habit it comes back with its unit.
    """
    # a browser counts and keeps a line end as one character, and sends two
    sent = {key: form.get(key, "").replace("\r\n", "\n") for key in form}
    typed_in = sent.get("habit") if sent.get("habit") in HABITS else habit
    result = RunForm({key: text.strip() for key, text in sent.items()}, form.getlist("faults"))
    typed = result.typed
    data: dict[str, Any] = {
        "who": typed.get("who", ""),
        "machine": typed.get("machine", ""),
        "notes": sent.get("notes", ""),
        "faults": result.faults,
        "good": typed.get("outcome") == "good",
        "photographs": [],
    }
    try:
        data["when"] = checks.date("when", typed.get("when", ""))
    except BadInput:
        result.errors["when"] = f"“{in_few_words(typed.get('when', ''))}” is not a date; write it as 2026-03-31."
    for part, known in PARTS.items():
        data[part] = _part(part, known, result, typed_in or habit, habit)
    for face in ("front", "back"):
        if not typed.get(face):
            result.errors[face] = f"Say what the {face} looks like."
        data[face] = {"colour": typed.get(face)}
    if not data["who"]:
        result.errors["who"] = "Write your initials, so that another hand can ask."
    result.data = data
    return result


def refuse(form: RunForm, error: BadInput) -> None:
    """Set an error of the run beside the field it is of."""
    named = error.field.partition("[")[0].partition(".colour")[0]
    place = named if named in FIELDS else "form"
    value = "" if error.value in (None, "") else f"“{in_few_words(error.value)}” "
    sentence = f"{value}{error.rule}." if place != "form" or value else f"{error.rule}."
    form.errors[place] = sentence if value else sentence[0].upper() + sentence[1:]


def as_sent(form: MultiDict[str, str]) -> list[tuple[str, str, str]]:
    """Everything that was typed, (name, label, text), to be read and sent again where its own page cannot be shown."""
    labels = {f"{part}.{key}": found.says.label for part, known in PARTS.items() for key, found in known.items()}
    rows = [(key, text) for key in form for text in form.getlist(key)]
    return [
        (key, labels.get(key, key.capitalize()), text)
        for key, text in rows
        if key not in ("csrf_token", "once", "habit")
    ]


def _part(part: str, known: Mapping[str, RunFigure], result: RunForm, typed_in: str, habit: str) -> dict[str, float]:
    values: dict[str, float] = {}
    for key, found in known.items():
        name, says = f"{part}.{key}", found.says
        text = result.typed.get(name, "")
        if not text:
            continue
        try:
            result.typed[name] = typed_with_unit(text, found.quantity, typed_in) if typed_in != habit else text
            value = round(parse_quantity(text, found.quantity, says.label, typed_in), 3)
            if not says.low <= value <= says.high:
                unit = unit_of(found.quantity)
                raise BadInput(says.label, text, f"must be from {says.low:g} to {says.high:g} {unit}".rstrip())
            values[key] = value
        except BadInput as error:
            result.errors[name] = f"“{in_few_words(text)}” {error.rule}."
    return values


def shown(value: float | None, quantity: str, habit: str) -> str:
    """A recorded value with its unit in a habit."""
    return "" if value is None else Quantity(value, quantity).text(habit)
