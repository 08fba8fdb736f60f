"""The form in which a run is recorded or corrected: reading what was typed, in either unit system.

One form serves every page; a page that knows part of the run already gives it as `KnownRun`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace
from werkzeug.datastructures import MultiDict

from ..core.errors import InputError, shorten
from ..core.plan.plan import Plan
from ..core.quantities import HABITS, Quantity, add_typed_unit, parse_quantity
from ..core.run.inspection import FACES
from ..core.run.run import (
    MAX_NAME,
    WANTED,
    Run,
    RunFigure,
    StoredFile,
    get_planned_values,
    list_run_figures,
    read_run,
    run_figures,
    with_figures,
)
from ..core.run.verification import Outside, OutsideBands
from ..core.schema import checks
from ..core.schema.documents import write_document
from ..core.schema.json_types import Json
from ..services.runs.writing import KnownRun

FIELDS = (
    "when",
    "who",
    "machine",
    "front",
    "back",
    "faults",
    "notes",
    "good",
    "second_look",
    "look",
)
# the parts that a machine and a torch are set up by: they are as planned, or as last time
SET_UP = ("set", "used")
OUTCOMES = ("good", "not-good", "as-done")
MAX_TYPED = 60


class RunForm(Struct):
    """What was typed, by field; the flaws picked; the run it reads as, where nothing is wrong; its
    figures so far, where something is still to be told; an error by field; what of it was outside
    what the procedure holds.
    """

    typed: dict[str, str]
    faults: list[str]
    run: Run | None = None
    so_far: Run | None = None
    errors: dict[str, str] = field(default_factory=dict)
    off: Sequence[Outside] = ()

    @property
    def outcome(self) -> str:
        """What the welder called it, "" where nothing was said."""
        found = self.typed.get("outcome", "")
        return found if found in OUTCOMES else ""

    @property
    def looked(self) -> bool:
        """Whether the plan's cautions were looked at again."""
        return self.typed.get("second_look") == "yes"


def build_blank(plan: Plan, habit: str, last: Run | None, who: str, machine: str) -> RunForm:
    """A form with today's date, who stood here last, and what was set last time, else what the plan
    says; nothing seen yet.
    """
    typed = {
        "when": date.today().isoformat(),
        "who": who,
        "machine": machine or (last.machine if last else ""),
    }
    return RunForm(typed | (set_as_last(last, habit) if last else set_as_planned(plan, habit)), [])


def set_as_planned(plan: Plan, habit: str) -> dict[str, str]:
    """What the plan says to set and use, as it is typed."""
    return _list_set_up_fields() | {
        name: _format_typed(value, kind, habit)
        for name, (value, kind) in get_planned_values(plan).items()
    }


def set_as_last(last: Run, habit: str) -> dict[str, str]:
    """What was set and used in a run, as it is typed; what was found of the gap is each run's
    own.
    """
    own = {f"{f.part}.{f.key}" for f in list_run_figures() if f.part in SET_UP and f.declared}
    told = {name: text for name, text in _list_typed_figures(last, habit).items() if name in own}
    return _list_set_up_fields() | told


def _list_set_up_fields() -> dict[str, str]:
    figures = (f for f in list_run_figures() if f.part in SET_UP and f.declared)
    return {f"{f.part}.{f.key}": "" for f in figures}


def _list_typed_figures(run: Run, habit: str) -> dict[str, str]:
    told = ((f, f.of(run)) for f in list_run_figures())
    return {
        f"{f.part}.{f.key}": _format_typed(value, f.quantity, habit)
        for f, value in told
        if value is not None
    }


def fill_from_run(run: Run, habit: str) -> RunForm:
    """A form with what a run says."""
    typed = {
        "when": run.when,
        "who": run.who,
        "machine": run.machine,
        "notes": run.notes,
        "front": run.front.colour,
        "back": run.back.colour,
        "outcome": "good" if run.good else "not-good",
    }
    return RunForm(typed | _list_typed_figures(run, habit), list(run.faults or ()))


def correct_run(form: RunForm, before: Run, habit: str) -> Run:
    """A run as it is corrected: what reads as it did before is what it was, for it is shown rounder
    than it is kept.
    """
    if form.run is None:
        return before
    shown = fill_from_run(before, habit).typed
    same = {
        (f.part, f.key): f.of(before)
        for f in list_run_figures()
        if form.typed.get(name := f"{f.part}.{f.key}", "") == shown.get(name, "")
    }
    good = form.run.good if form.outcome else before.good
    return replace(with_figures(form.run, same), good=good)


def _format_typed(value: Any, quantity: str, habit: str) -> str:
    return str(value) if quantity == "word" else Quantity(value, quantity).number(habit)


def read(
    form: MultiDict[str, str], habit: str, known: KnownRun | None = None, signed: str = ""
) -> RunForm:
    """Read a sent form. Errors stand by field; `run` is the run where there are none.

    A figure means what it meant on the page it was typed on, which the form says; where that was in
    the other unit system it comes back with its unit.

    Args:
        form: The fields that were sent.
        habit: Unit system of the page that is shown now, "mm" or "in".
        known: What is known of the run already; what is typed goes before it.
        signed: Initials of a run that is signed already.
    """
    # a browser counts and keeps a line end as one character, and sends two
    sent = {key: form.get(key, "").replace("\r\n", "\n") for key in form}
    typed_in = sent["habit"] if sent.get("habit") in HABITS else habit
    result = RunForm({key: text.strip() for key, text in sent.items()}, form.getlist("faults"))
    typed, data = result.typed, _known_data(known)
    data |= {
        "who": signed or typed.get("who", ""),
        "machine": typed.get("machine", ""),
        "notes": sent.get("notes", ""),
        "faults": list(result.faults),
        "good": result.outcome in ("good", "as-done"),
    }
    if not data["who"]:
        result.errors["who"] = WANTED["who"]
    if "when" in typed or known is None:
        data["when"] = _parse_date(result)
    for part, figures in run_figures().items():
        told = _parse_part(figures, result, typed_in, habit)
        before = data.get(part)
        data[part] = {**(before if isinstance(before, Mapping) else {}), **told}
    for face in FACES:
        data[face] = {"colour": typed.get(face)}
        if not typed.get(face):
            result.errors[face] = WANTED[face]
    if typed.get("look"):
        data["look"] = typed["look"]
    if coupon := _parse_coupon(result):
        data["coupon"] = coupon
    if not result.errors:
        try:
            result.run = read_run(data)
        except InputError as error:
            refuse(result, error, habit)
    result.so_far = result.run or _read_so_far(data)
    return result


def _read_so_far(data: Mapping[str, Json]) -> Run | None:
    """The figures of a run that is not told whole, to be shown what comes of them; its faces and
    initials stand for none.
    """
    figures = {part: data[part] for part in run_figures()}
    bright: dict[str, Json] = {face: {"colour": "silver"} for face in FACES}
    bare = {"who": "-", "when": date.today().isoformat(), "good": False}
    try:
        return read_run({**bright, **bare, **figures})
    except InputError:
        return None


def _known_data(known: KnownRun | None) -> dict[str, Json]:
    if known is None:
        return {}
    found = write_document(known)
    return {key: value for key, value in found.items() if value not in (None, [], {})}


def _parse_date(result: RunForm) -> str:
    try:
        return checks.check_date("when", result.typed.get("when", ""))
    except InputError:
        words = shorten(result.typed.get("when", ""))
        result.errors["when"] = f"“{words}” is not a date. Write it like 2026-03-31."
        return ""


def _parse_part(
    figures: Mapping[str, RunFigure], result: RunForm, typed_in: str, habit: str
) -> dict[str, Json]:
    values: dict[str, Json] = {}
    for key, figure in figures.items():
        name = f"{figure.part}.{key}"
        text = result.typed.get(name, "")[:MAX_TYPED]
        if not text:
            continue
        if figure.quantity == "word":
            values[key] = text
            continue
        try:
            if typed_in != habit:
                result.typed[name] = add_typed_unit(text, figure.quantity, typed_in)
            values[key] = _parse_figure(text, figure, typed_in, habit)
        except InputError as error:
            result.errors[name] = error.describe_value(habit)
    return values


def _parse_figure(text: str, figure: RunFigure, typed_in: str, habit: str) -> float:
    value = round(parse_quantity(text, figure.quantity, figure.label, typed_in), 3)
    if not figure.entry.low <= value <= figure.entry.high:
        ends = (figure.entry.low, figure.entry.high)
        low, high = (Quantity(end, figure.quantity).text(habit) for end in ends)
        raise InputError(figure.label, text, f"must be from {low} to {high}")
    return value


def _parse_coupon(result: RunForm) -> dict[str, Json]:
    """The coupon that the run was, as it is typed; nothing where it was none."""
    typed = result.typed
    if not typed.get("is_coupon"):
        return {}
    found: dict[str, Json] = {"label": typed.get("coupon_label", "")[:MAX_NAME]}
    for key in ("bend", "hammer"):
        if typed.get(f"coupon_{key}"):
            found[key] = typed[f"coupon_{key}"]
    if test := typed.get("rust_test"):
        try:
            text = typed.get("rust_minutes", "")[:20] or "0"
            minutes = parse_quantity(text, "number", "minutes", "mm")
            shows = typed.get("rust_shows") == "yes"
            found["rust"] = {"test": test, "minutes": minutes, "shows": shows}
        except InputError as error:
            result.errors["rust"] = error.sentence
    return found


def with_photographs(run: Run, photographs: Sequence[StoredFile]) -> Run:
    """A run with the photographs that came with its form."""
    return replace(run, photographs=tuple(photographs))


def refuse(form: RunForm, error: InputError, habit: str) -> None:
    """Set an error of the run beside the field it is of."""
    if isinstance(error, OutsideBands):
        form.off = error.off
    named = error.field.partition("[")[0].partition(".colour")[0]
    place = named if named in FIELDS else "form"
    form.errors[place] = error.describe_value(habit)


def list_sent(form: MultiDict[str, str]) -> list[tuple[str, str, str]]:
    """Everything that was typed, (name, label, text), to be read and sent again where its own page
    cannot be shown.
    """
    labels = {f"{f.part}.{f.key}": f.label for f in list_run_figures()}
    rows = [(key, text) for key in form for text in form.getlist(key)]
    return [
        (key, labels.get(key, key.capitalize()), text)
        for key, text in rows
        if key not in ("csrf_token", "once", "habit")
    ]
