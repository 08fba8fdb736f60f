"""The form to record a repair with its run."""

from __future__ import annotations

from datetime import date

from werkzeug.datastructures import MultiDict

from ..core.errors import InputError
from ..core.quantities import UNIT_SYSTEMS, Quantity
from ..core.run.recorded_repair import RecordedRepair
from ..core.schema.documents import read_document
from ..core.schema.entries import Entry, read_entries
from ..core.schema.json_types import Json
from ..core.typed_quantities import parse_quantity

MAX_TYPED = 60
MISSING = {
    "who": "Enter the initials of the welder of the repair.",
    "result": "Select whether the repair is sound.",
    "flaw": "Select the flaw that was repaired.",
}


def read_repair(
    form: MultiDict[str, str], units: str
) -> tuple[RecordedRepair | None, dict[str, str]]:
    """Read a sent repair.

    Args:
        form: The sent fields.
        units: Unit system of the present page. The form names its own.

    Returns:
        The repair or None, and the errors by field.
    """
    errors: dict[str, str] = {}
    typed_in = form["habit"] if form.get("habit") in UNIT_SYSTEMS else units
    data: dict[str, Json] = {"when": date.today().isoformat()}
    for key, text in MISSING.items():
        value = form.get(key, "").strip()
        if value:
            data[key] = value
        else:
            errors[key] = text
    for key, entry in read_entries(RecordedRepair).items():
        if entry.quantity != "length":
            continue
        typed = form.get(key, "").strip()[:MAX_TYPED]
        if typed:
            try:
                data[key] = _parse_length(typed, entry, typed_in)
            except InputError as error:
                errors[key] = error.describe_value(units)
    data["notes"] = form.get("notes", "").replace("\r\n", "\n").strip()
    if errors:
        return None, errors
    try:
        return read_document(RecordedRepair, data, document="a repair"), {}
    except InputError as error:
        return None, {error.field: error.describe_value(units)}


def _parse_length(typed: str, entry: Entry, units: str) -> float:
    value_mm = round(parse_quantity(typed, "length", entry.label, units), 3)
    if not entry.low <= value_mm <= entry.high:
        low, high = (Quantity(end, "length").text(units) for end in (entry.low, entry.high))
        raise InputError(entry.label, typed, f"must be from {low} to {high}")
    return value_mm
