"""The form to record or correct a run, and its parser, in both unit systems.

One form serves every page. A page with known values gives them as `KnownRun`.
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
from ..core.quantities import UNIT_SYSTEMS, Quantity
from ..core.run.inspection import SIDES
from ..core.run.run import (
    MAX_NAME,
    WANTED,
    Photograph,
    Run,
    RunFigure,
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
from ..core.typed_quantities import add_typed_unit, parse_quantity
from ..services.runs.session_records import KnownRun
from .face_tints import get_face_colour, get_face_key, read_face_tints

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
# The parts of machine and torch that are as planned, or as last time.
SET_UP = ("set", "used")
OUTCOMES = ("good", "not-good", "as-done")
MAX_TYPED = 60


class RunForm(Struct):
    """A run form.

    Typed text by field, selected flaws, the parsed run if valid, the partial figures, errors by
    field, and deviations from the procedure.
    """

    typed: dict[str, str]
    faults: list[str]
    run: Run | None = None
    preview: Run | None = None
    errors: dict[str, str] = field(default_factory=dict)
    off: Sequence[Outside] = ()

    @property
    def outcome(self) -> str:
        """Return the outcome by the welder, or ""."""
        outcome = self.typed.get("outcome", "")
        return outcome if outcome in OUTCOMES else ""

    @property
    def is_checked(self) -> bool:
        """Return whether the cautions of the plan were checked again."""
        return self.typed.get("second_look") == "yes"


def build_blank(plan: Plan, units: str, last: Run | None, who: str, machine: str) -> RunForm:
    """Return a form with today's date, the last welder, and the last or planned settings.

    It has no observations.

    Args:
        plan: The plan.
        units: Unit system.
        last: The last run, or None.
        who: Initials of the welder.
        machine: The machine.
    """
    typed = {
        "when": date.today().isoformat(),
        "who": who,
        "machine": machine or (last.machine if last else ""),
    }
    return RunForm(typed | (set_as_last(last, units) if last else set_as_planned(plan, units)), [])


def set_as_planned(plan: Plan, units: str) -> dict[str, str]:
    """Return the settings and materials of a plan as typed text.

    Args:
        plan: The plan.
        units: Unit system.
    """
    return _list_set_up_fields() | {
        name: _format_typed(value, kind, units)
        for name, (value, kind) in get_planned_values(plan).items()
    }


def set_as_last(last: Run, units: str) -> dict[str, str]:
    """Return the settings and materials of a run as typed text.

    The measured gap is not copied.

    Args:
        last: The run.
        units: Unit system.
    """
    own_names = {f"{f.part}.{f.key}" for f in list_run_figures() if f.part in SET_UP and f.declared}
    texts = {
        name: text for name, text in _list_typed_figures(last, units).items() if name in own_names
    }
    return _list_set_up_fields() | texts


def _list_set_up_fields() -> dict[str, str]:
    figures = (f for f in list_run_figures() if f.part in SET_UP and f.declared)
    return {f"{f.part}.{f.key}": "" for f in figures}


def _list_typed_figures(run: Run, units: str) -> dict[str, str]:
    figures = ((f, f.of(run)) for f in list_run_figures())
    return {
        f"{f.part}.{f.key}": _format_typed(value, f.quantity, units)
        for f, value in figures
        if value is not None
    }


def fill_from_run(run: Run, units: str) -> RunForm:
    """Return a form with the values of a run.

    Args:
        run: The run.
        units: Unit system.
    """
    typed = {
        "when": run.when,
        "who": run.who,
        "machine": run.machine,
        "notes": run.notes,
        **{face: get_face_key(run, face) for face in SIDES},
        "outcome": "good" if run.good else "not-good",
    }
    return RunForm(typed | _list_typed_figures(run, units), list(run.faults or ()))


def correct_run(form: RunForm, before: Run, units: str) -> Run:
    """Return a corrected run.

    An unchanged text keeps the saved value, which has more digits.

    Args:
        form: The form.
        before: The run before.
        units: Unit system.
    """
    if form.run is None:
        return before
    displayed = fill_from_run(before, units).typed
    same = {
        (f.part, f.key): f.of(before)
        for f in list_run_figures()
        if form.typed.get(name := f"{f.part}.{f.key}", "") == displayed.get(name, "")
    }
    good = form.run.good if form.outcome else before.good
    return replace(with_figures(form.run, same), good=good)


def _format_typed(value: Any, quantity: str, units: str) -> str:
    return str(value) if quantity == "word" else Quantity(value, quantity).number(units)


def read(
    form: MultiDict[str, str], units: str, known: KnownRun | None = None, signed: str = ""
) -> RunForm:
    """Read a sent form.

    Errors are listed by field, and `run` is set without any. A figure has the unit system of its
    page, which the form names. After a change of the unit system, it is returned with its unit.

    Args:
        form: The sent fields.
        units: Unit system of the present page, "mm" or "in".
        known: Known values of the run. Typed values override them.
        signed: Initials of a run that is signed already.
    """
    # A browser counts and saves a line end as one character, and sends two.
    sent = {key: form.get(key, "").replace("\r\n", "\n") for key in form}
    typed_in = sent["habit"] if sent.get("habit") in UNIT_SYSTEMS else units
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
        parsed = _parse_part(figures, result, typed_in, units)
        before = data.get(part)
        data[part] = {**(before if isinstance(before, Mapping) else {}), **parsed}
    for face in SIDES:
        data[face] = {"colour": get_face_colour(typed.get(face))}
        if not typed.get(face):
            result.errors[face] = WANTED[face]
    if tints := read_face_tints(typed):
        before = data.get("seen")
        data["seen"] = {**(before if isinstance(before, Mapping) else {}), **tints}
    if typed.get("look"):
        data["look"] = typed["look"]
    if coupon := _parse_coupon(result):
        data["coupon"] = coupon
    if not result.errors:
        try:
            result.run = read_run(data)
        except InputError as error:
            refuse(result, error, units)
    result.preview = result.run or _read_partial_run(data)
    return result


def _read_partial_run(data: Mapping[str, Json]) -> Run | None:
    """Return the figures of an incomplete run, for its preview.

    The faces and the initials are placeholders.
    """
    figures = {part: data[part] for part in run_figures()}
    bright: dict[str, Json] = {face: {"colour": "silver"} for face in SIDES}
    bare = {"who": "-", "when": date.today().isoformat(), "good": False}
    try:
        return read_run({**bright, **bare, **figures})
    except InputError:
        return None


def _known_data(known: KnownRun | None) -> dict[str, Json]:
    if known is None:
        return {}
    data = write_document(known)
    return {key: value for key, value in data.items() if value not in (None, [], {})}


def _parse_date(result: RunForm) -> str:
    try:
        return checks.check_date("when", result.typed.get("when", ""))
    except InputError:
        text = shorten(result.typed.get("when", ""))
        result.errors["when"] = f"“{text}” is not a date. Write it like 2026-03-31."
        return ""


def _parse_part(
    figures: Mapping[str, RunFigure], result: RunForm, typed_in: str, units: str
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
            if typed_in != units:
                result.typed[name] = add_typed_unit(text, figure.quantity, typed_in)
            values[key] = _parse_figure(text, figure, typed_in, units)
        except InputError as error:
            result.errors[name] = error.describe_value(units)
    return values


def _parse_figure(text: str, figure: RunFigure, typed_in: str, units: str) -> float:
    value = round(parse_quantity(text, figure.quantity, figure.label, typed_in), 3)
    if not figure.entry.low <= value <= figure.entry.high:
        ends = (figure.entry.low, figure.entry.high)
        low, high = (Quantity(end, figure.quantity).text(units) for end in ends)
        raise InputError(figure.label, text, f"must be from {low} to {high}")
    return value


def _parse_coupon(result: RunForm) -> dict[str, Json]:
    """Return the coupon of the run as typed, or an empty object."""
    typed = result.typed
    if not typed.get("is_coupon"):
        return {}
    coupon: dict[str, Json] = {"label": typed.get("coupon_label", "")[:MAX_NAME]}
    for key in ("bend", "hammer"):
        if typed.get(f"coupon_{key}"):
            coupon[key] = typed[f"coupon_{key}"]
    if test := typed.get("rust_test"):
        try:
            text = typed.get("rust_minutes", "")[:20] or "0"
            minutes = parse_quantity(text, "number", "minutes", "mm")
            shows = typed.get("rust_shows") == "yes"
            coupon["rust"] = {"test": test, "minutes": minutes, "shows": shows}
        except InputError as error:
            result.errors["rust"] = error.sentence
    return coupon


def with_photographs(run: Run, photographs: Sequence[Photograph]) -> Run:
    """Return a run with the photographs of its form.

    Args:
        run: The run.
        photographs: The photographs.
    """
    return replace(run, photographs=tuple(photographs))


def refuse(form: RunForm, error: InputError, units: str) -> None:
    """Set an error of the run at its field.

    Args:
        form: The form.
        error: The error.
        units: Unit system.
    """
    if isinstance(error, OutsideBands):
        form.off = error.off
    named = error.field.partition("[")[0].partition(".colour")[0]
    place = named if named in FIELDS else "form"
    form.errors[place] = error.describe_value(units)


def list_sent(form: MultiDict[str, str]) -> list[tuple[str, str, str]]:
    """Return everything typed, (name, label, text), to send again if its page cannot be shown."""
    labels = {f"{f.part}.{f.key}": f.label for f in list_run_figures()}
    rows = [(key, text) for key in form for text in form.getlist(key)]
    return [
        (key, labels.get(key, key.capitalize()), text)
        for key, text in rows
        if key not in ("csrf_token", "once", "habit")
    ]
