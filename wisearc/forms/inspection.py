"""The inspection of a run as the address of its page, and back."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from werkzeug.datastructures import MultiDict

from ..core import catalogue
from ..core.errors import InputError
from ..core.quantities import Quantity
from ..core.run.inspection import (
    BEAD_SURFACES,
    EDGES,
    MAX_BAND_MM,
    PLACED,
    PLACES,
    RIPPLES,
    STOPS,
    Inspection,
    Place,
    list_asked_signs,
)
from ..core.typed_quantities import parse_quantity

# Marks an address with an inspection, even an empty one.
MARK = "seen"
PICKS: Mapping[str, Mapping[str, str]] = {"edges": EDGES, "ripple": RIPPLES, "look": BEAD_SURFACES}
TINTS = ("front_tint", "back_tint")
YES, NO = "yes", "no"


def read_inspection(form: MultiDict[str, str], units: str) -> tuple[Inspection, dict[str, str]]:
    """Parse an inspection from form fields, and return it with its errors by field.

    Values that no form of ours sends are ignored.

    Args:
        form: The fields.
        units: Unit system of numbers without unit.
    """
    errors: dict[str, str] = {}
    known = {**dict.fromkeys(TINTS, catalogue.load_tints()), **PICKS}
    picked = {key: form[key] if form.get(key) in names else None for key, names in known.items()}
    band, text = None, form.get("band", "").strip()[:60]
    if text:
        try:
            band = _check_band(parse_quantity(text, "length", "Tinted band", units))
        except InputError as error:
            errors["band"] = error.sentence
    flaws = catalogue.load_flaws()
    where = {
        key: place
        for key in (*PLACED, *flaws)
        if (place := _place(form.get(f"where.{key}", ""))) is not None
    }
    answers = {
        sign: form[f"told.{sign}"] == YES
        for sign in list_asked_signs()
        if form.get(f"told.{sign}") in (YES, NO)
    }
    faults = tuple(key for key in dict.fromkeys(form.getlist("faults")) if key in flaws)
    inspection = Inspection(
        faults, band_mm=band, where=where or None, told=answers or None, **picked
    )
    return inspection, errors


def _check_band(value: float) -> float:
    if not 0.1 <= value <= MAX_BAND_MM:
        raise InputError(
            "band",
            value,
            (
                f"must be 0.1 to {MAX_BAND_MM:g} mm. Measure across, from the start of the "
                "colour to its end"
            ),
        )
    return round(value, 2)


def _place(text: str) -> Place | None:
    if text == STOPS:
        return STOPS
    if text in PLACES:
        return PLACES[text]
    first, dash, last = text.partition("-")
    try:
        start, end = (round(min(1.0, max(0.0, float(end))), 3) for end in (first, last))
    except ValueError:
        return None
    return (start, end) if dash and start <= end else None


def place_value(place: Place | None) -> str:
    """Return a position for the form."""
    if place is None or isinstance(place, str):
        return place or ""
    named = next((name for name, ends in PLACES.items() if ends == tuple(place)), None)
    return named or "-".join(f"{end:g}" for end in place)


def list_inspection_fields(inspection: Inspection, units: str) -> Iterator[tuple[str, str]]:
    """Yield an inspection as form fields, name and value.

    Args:
        inspection: The inspection.
        units: Unit system.
    """
    yield MARK, "1"
    yield from (("faults", key) for key in inspection.faults or ())
    picked = ((key, getattr(inspection, key)) for key in (*TINTS, *PICKS))
    yield from ((key, value) for key, value in picked if value)
    if inspection.band_mm:
        yield "band", Quantity(inspection.band_mm, "length").text(units)
    yield from (
        (f"where.{key}", place_value(place)) for key, place in (inspection.where or {}).items()
    )
    answers = (inspection.told or {}).items()
    yield from ((f"told.{key}", YES if answer else NO) for key, answer in answers)
