"""What is seen of a run, as the address of its page has it, and back."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from werkzeug.datastructures import MultiDict

from ..core import catalogue
from ..core.errors import BadInput
from ..core.quantities import Quantity, parse_quantity
from ..core.run.arc_record import LOOKS
from ..core.run.inspection import EDGES, MOST_BAND_MM, PLACED, PLACES, RIPPLES, STOPS
from ..core.run.record import FAULTS

# says that the address holds what is seen, be it nothing
MARK = "seen"
PICKS: Mapping[str, Mapping[str, Any]] = {"edges": EDGES, "ripple": RIPPLES, "look": LOOKS}
TINTS = ("front_tint", "back_tint")
YES, NO = "yes", "no"


def seen_of_form(form: MultiDict[str, str], habit: str) -> tuple[dict[str, Any], dict[str, str]]:
    """What is seen, of a form's fields, and what is wrong by field; what no form of ours sends is
    left away.
    """
    found: dict[str, Any] = {
        "faults": [key for key in dict.fromkeys(form.getlist("faults")) if key in FAULTS]
    }
    errors: dict[str, str] = {}
    for key, known in (*((key, catalogue.tints()) for key in TINTS), *PICKS.items()):
        if form.get(key) in known:
            found[key] = form[key]
    text = form.get("band", "").strip()[:60]
    if text:
        try:
            found["band_mm"] = _band(parse_quantity(text, "length", "Tinted band", habit))
        except BadInput as error:
            errors["band"] = error.sentence
    where = {
        key: place
        for key in (*PLACED, *FAULTS)
        if (place := _place(form.get(f"where.{key}", ""))) is not None
    }
    told = {
        sign.key: form[f"told.{sign.key}"] == YES
        for sign in catalogue.signs().values()
        if sign.ask and form.get(f"told.{sign.key}") in (YES, NO)
    }
    return found | ({"where": where} if where else {}) | ({"told": told} if told else {}), errors


def _band(value: float) -> float:
    if not 0.1 <= value <= MOST_BAND_MM:
        raise BadInput(
            "band",
            value,
            f"must be 0.1 to {MOST_BAND_MM:g} mm; measure across, from where colour begins to where"
            " it ends",
        )
    return round(value, 2)


def _place(text: str) -> Any:
    if text == STOPS:
        return STOPS
    if text in PLACES:
        return list(PLACES[text])
    first, dash, last = text.partition("-")
    try:
        ends = [round(min(1.0, max(0.0, float(one))), 3) for one in (first, last)]
    except ValueError:
        return None
    return ends if dash and ends[0] <= ends[1] else None


def place_value(place: Any) -> str:
    """A place as the form has it."""
    if place is None or place == STOPS:
        return place or ""
    for name, ends in PLACES.items():
        if list(ends) == list(place):
            return name
    return "-".join(f"{one:g}" for one in place)


def fields_of(seen: Mapping[str, Any], habit: str) -> Iterator[tuple[str, str]]:
    """What is seen as fields of a form, name and value."""
    yield MARK, "1"
    yield from (("faults", key) for key in seen.get("faults") or ())
    yield from ((key, str(seen[key])) for key in (*TINTS, *PICKS) if seen.get(key))
    if seen.get("band_mm"):
        yield "band", Quantity(seen["band_mm"], "length").text(habit)
    yield from (
        (f"where.{key}", place_value(place)) for key, place in (seen.get("where") or {}).items()
    )
    yield from (
        (f"told.{key}", YES if answer else NO) for key, answer in (seen.get("told") or {}).items()
    )
