"""The form in which a run is written down: reading what was typed, in either unit habit."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from werkzeug.datastructures import MultiDict

from ..core.errors import BadInput, in_few_words
from ..core.plan.plan import Plan
from ..core.quantities import HABITS, Quantity, parse_quantity, typed_with_unit
from ..core.run.record import PARTS, WANTED, RunFigure, as_planned
from ..core.run.verification import Outside, OutsideBands
from ..core.schema import checks

FIELDS = ("when", "who", "machine", "front", "back", "faults", "notes", "good", "second_look")
# the parts that a machine and a torch are set up by: they are as planned, or as last time
SET_UP = ("set", "used")


@dataclass
class RunForm:
    """What was typed, by field; what it reads as; an error by field; what of it was outside what
    the procedure holds.
    """

    typed: dict[str, str]
    faults: list[str]
    data: dict[str, Any] = field(default_factory=dict)
    errors: dict[str, str] = field(default_factory=dict)
    off: Sequence[Outside] = ()


def blank(
    plan: Plan, habit: str, last: Mapping[str, Any] | None, who: str, machine: str
) -> RunForm:
    """A form with today's date, who stood here last, and what was set last time, else what the plan
    says; nothing seen yet.
    """
    typed = {
        "when": date.today().isoformat(),
        "who": who,
        "machine": machine or str((last or {}).get("machine", "")),
    }
    return RunForm(typed | (set_as_last(last, habit) if last else set_as_planned(plan, habit)), [])


def set_as_planned(plan: Plan, habit: str) -> dict[str, str]:
    """What the plan says to set and use, as it is typed."""
    return _all_of_set_up() | {
        name: _typed(value, kind, habit) for name, (value, kind) in as_planned(plan).items()
    }


def set_as_last(last: Mapping[str, Any], habit: str) -> dict[str, str]:
    """What was set and used in a run, as it is typed; what was found of the gap is each run's
    own.
    """
    found = _all_of_set_up()
    for part in SET_UP:
        for key, value in (last.get(part) or {}).items():
            if value is not None and key in PARTS[part] and PARTS[part][key].declared:
                found[f"{part}.{key}"] = _typed(value, PARTS[part][key].quantity, habit)
    return found


def _all_of_set_up() -> dict[str, str]:
    return {
        f"{part}.{key}": ""
        for part in SET_UP
        for key, found in PARTS[part].items()
        if found.declared
    }


def of_record(record: Mapping[str, Any], habit: str) -> RunForm:
    """A form with what a run says."""
    typed = {key: str(record.get(key, "")) for key in ("when", "who", "machine", "notes")}
    typed |= {face: record[face]["colour"] for face in ("front", "back")}
    typed["outcome"] = "good" if record.get("good") else "not-good"
    for part, known in PARTS.items():
        for key, value in (record.get(part) or {}).items():
            if value is not None and key in known:
                typed[f"{part}.{key}"] = _typed(value, known[key].quantity, habit)
    return RunForm(typed, list(record.get("faults", [])))


def untouched(form: RunForm, record: Mapping[str, Any], habit: str) -> dict[str, dict[str, Any]]:
    """The figures of a run by part, each that reads as it did before being what it was: it is shown
    rounder than it is kept.
    """
    before = of_record(record, habit).typed
    return {
        part: {
            key: (
                (record.get(part) or {}).get(key)
                if form.typed.get(f"{part}.{key}") == before.get(f"{part}.{key}")
                else value
            )
            for key, value in form.data[part].items()
        }
        for part in PARTS
    }


def _typed(value: Any, quantity: str, habit: str) -> str:
    return str(value) if quantity == "word" else Quantity(value, quantity).number(habit)


def read(form: MultiDict[str, str], habit: str) -> RunForm:
    """Read a sent form. Errors stand by field; `data` is the run where there are none.

    Parameters: habit, of the page that is shown now. A figure means what it meant on the page it
    was typed on, which the form says; where that was in the other habit it comes back with its
    unit.
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
        "good": typed.get("outcome") in ("good", "as-done"),
        "photographs": [],
    }
    try:
        data["when"] = checks.date("when", typed.get("when", ""))
    except BadInput:
        result.errors["when"] = (
            f"“{in_few_words(typed.get('when', ''))}” is not a date; write it as 2026-03-31."
        )
    for part, known in PARTS.items():
        data[part] = _part(part, known, result, typed_in or habit, habit)
    for face in ("front", "back"):
        if not typed.get(face):
            result.errors[face] = WANTED[face]
        data[face] = {"colour": typed.get(face)}
    if not data["who"]:
        result.errors["who"] = WANTED["who"]
    result.data = data
    return result


def refuse(form: RunForm, error: BadInput, habit: str) -> None:
    """Set an error of the run beside the field it is of."""
    if isinstance(error, OutsideBands):
        form.off = error.off
    named = error.field.partition("[")[0].partition(".colour")[0]
    place = named if named in FIELDS else "form"
    value = "" if error.value in (None, "") else f"“{in_few_words(error.value)}” "
    rule = error.rule_in(habit)
    sentence = f"{value}{rule}." if place != "form" or value else f"{rule}."
    form.errors[place] = sentence if value else sentence[0].upper() + sentence[1:]


def as_sent(form: MultiDict[str, str]) -> list[tuple[str, str, str]]:
    """Everything that was typed, (name, label, text), to be read and sent again where its own page
    cannot be shown.
    """
    labels = {
        f"{part}.{key}": found.says.label
        for part, known in PARTS.items()
        for key, found in known.items()
    }
    rows = [(key, text) for key in form for text in form.getlist(key)]
    return [
        (key, labels.get(key, key.capitalize()), text)
        for key, text in rows
        if key not in ("csrf_token", "once", "habit")
    ]


def _part(
    part: str, known: Mapping[str, RunFigure], result: RunForm, typed_in: str, habit: str
) -> dict[str, Any]:
    values: dict[str, Any] = {}
    for key, found in known.items():
        name, says = f"{part}.{key}", found.says
        text = result.typed.get(name, "")
        if not text:
            continue
        if found.quantity == "word":
            values[key] = text
            continue
        try:
            result.typed[name] = (
                typed_with_unit(text, found.quantity, typed_in) if typed_in != habit else text
            )
            value = round(parse_quantity(text, found.quantity, says.label, typed_in), 3)
            if not says.low <= value <= says.high:
                low, high = (
                    Quantity(end, found.quantity).text(habit) for end in (says.low, says.high)
                )
                raise BadInput(says.label, text, f"must be from {low} to {high}")
            values[key] = value
        except BadInput as error:
            result.errors[name] = f"“{in_few_words(text)}” {error.rule_in(habit)}."
    return values
