"""The form to record a repair with its run."""

from __future__ import annotations

from datetime import date

from werkzeug.datastructures import MultiDict

from ..core.errors import InputError
from ..core.quantities import UNIT_SYSTEMS, Quantity
from ..core.run.recorded_repair import RecordedRepair
from ..core.schema.documents import read_document
from ..core.schema.entries import read_entries
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
    length = form.get("length", "").strip()[:MAX_TYPED]
    entry = read_entries(RecordedRepair)["length_mm"]
    if length:
        try:
            value_mm = round(parse_quantity(length, "length", "Repaired length", typed_in), 3)
            if not entry.low <= value_mm <= entry.high:
                low, high = (Quantity(x, "length").text(units) for x in (entry.low, entry.high))
                raise InputError("Repaired length", length, f"must be from {low} to {high}")
            data["length_mm"] = value_mm
        except InputError as error:
            errors["length"] = error.describe_value(units)
    data["notes"] = form.get("notes", "").replace("\r\n", "\n").strip()
    if errors:
        return None, errors
    try:
        return read_document(RecordedRepair, data, document="a repair"), {}
    except InputError as error:
        return None, {error.field: error.describe_value(units)}
