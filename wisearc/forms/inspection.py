"""What is seen of a run, as the address of its page has it, and back."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from werkzeug.datastructures import MultiDict

from ..core import catalogue
from ..core.errors import InputError
from ..core.quantities import Quantity, parse_quantity
from ..core.run.inspection import (
    EDGES,
    LOOKS,
    MAX_BAND_MM,
    PLACED,
    PLACES,
    RIPPLES,
    STOPS,
    Inspection,
    Place,
    list_asked_signs,
)

# says that the address holds what is seen, be it nothing
MARK = "seen"
PICKS: Mapping[str, Mapping[str, str]] = {"edges": EDGES, "ripple": RIPPLES, "look": LOOKS}
TINTS = ("front_tint", "back_tint")
YES, NO = "yes", "no"


def read_inspection(form: MultiDict[str, str], habit: str) -> tuple[Inspection, dict[str, str]]:
    """What is seen, of a form's fields, and what is wrong by field; what no form of ours sends is
    left away.
    """
    errors: dict[str, str] = {}
    known = {**dict.fromkeys(TINTS, catalogue.load_tints()), **PICKS}
    picked = {key: form[key] if form.get(key) in names else None for key, names in known.items()}
    band, text = None, form.get("band", "").strip()[:60]
    if text:
        try:
            band = _check_band(parse_quantity(text, "length", "Tinted band", habit))
        except InputError as error:
            errors["band"] = error.sentence
    flaws = catalogue.load_flaws()
    where = {
        key: place
        for key in (*PLACED, *flaws)
        if (place := _place(form.get(f"where.{key}", ""))) is not None
    }
    told = {
        sign: form[f"told.{sign}"] == YES
        for sign in list_asked_signs()
        if form.get(f"told.{sign}") in (YES, NO)
    }
    faults = tuple(key for key in dict.fromkeys(form.getlist("faults")) if key in flaws)
    seen = Inspection(faults, band_mm=band, where=where or None, told=told or None, **picked)
    return seen, errors


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
        start, end = (round(min(1.0, max(0.0, float(one))), 3) for one in (first, last))
    except ValueError:
        return None
    return (start, end) if dash and start <= end else None


def place_value(place: Place | None) -> str:
    """A place as the form has it."""
    if place is None or isinstance(place, str):
        return place or ""
    named = next((name for name, ends in PLACES.items() if ends == tuple(place)), None)
    return named or "-".join(f"{one:g}" for one in place)


def list_inspection_fields(seen: Inspection, habit: str) -> Iterator[tuple[str, str]]:
    """What is seen as fields of a form, name and value."""
    yield MARK, "1"
    yield from (("faults", key) for key in seen.faults or ())
    picked = ((key, getattr(seen, key)) for key in (*TINTS, *PICKS))
    yield from ((key, value) for key, value in picked if value)
    if seen.band_mm:
        yield "band", Quantity(seen.band_mm, "length").text(habit)
    yield from ((f"where.{key}", place_value(place)) for key, place in (seen.where or {}).items())
    told = (seen.told or {}).items()
    yield from ((f"told.{key}", YES if answer else NO) for key, answer in told)
