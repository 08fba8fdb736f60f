"""The inspection of a run.

Tint of each face, edges, ripple, tinted width, flaws with their positions along the seam, and
answers to questions.
"""

from collections.abc import Mapping
from typing import Annotated, Any, TypeAlias

from msgspec import Struct

from .. import catalogue
from ..errors import InputError
from ..schema import checks
from ..schema.entries import Entry, Option, Own, list_options
from ..schema.json_types import Json

FRONT_COLOURS = ("silver", "straw", "brown", "purple", "blue", "grey")
BACK_COLOURS = (*FRONT_COLOURS, "sugar", "not-seen")
SIDES = {"front": FRONT_COLOURS, "back": BACK_COLOURS}
# Names on screen. The keys are fixed by the file format.
FACE_NAMES = {"front": "face", "back": "root"}
COLOUR_NAMES = {
    **{colour: colour for colour in FRONT_COLOURS},
    "sugar": "oxidised (sugar)",
    "not-seen": "not checked",
}
BEAD_SURFACES = {
    "even": "even, overlapping ripples",
    "smooth": "smooth and flat",
    "proud": "high, ropey",
    "sunk": "sunk, with undercut",
    "wide": "wide, wandering",
    "rough": "rough, pitted",
}
EDGES = {"blend": "blend in", "stand": "unmelted", "undercut": "undercut", "melted": "melted away"}
RIPPLES = {"even": "even", "uneven": "uneven", "tails": "with tails", "none": "no ripples"}
# Positions along the seam, as fractions.
PLACES: Mapping[str, tuple[float, float]] = {
    "start": (0.0, 0.2),
    "middle": (0.2, 0.8),
    "end": (0.8, 1.0),
    "all": (0.0, 1.0),
}
STOPS = "stops"
# The flaw that edges, ripple and surface imply.
AMOUNTS_TO = {
    "stand": "cold",
    "undercut": "undercut",
    "melted": "edge-lost",
    "uneven": "uneven",
    "tails": "uneven",
    "proud": "cold",
    "sunk": "too-hot",
}
MAX_BAND_MM = 200.0
# Observations with a position: the flaws and the faces.
PLACED = ("front", "back")
# Colours without a problem: published tints, common practice.
BRIGHT = ("silver", "straw")
# Acceptable in dry service; and the dull grey of an unshielded face.
TINTED = ("brown", "purple", "blue")
UNSHIELDED = "grey"


# Start and end along the seam, as fractions, or "stops".
Place: TypeAlias = str | tuple[float, float]


def _list_flaw_names() -> Mapping[str, Option]:
    return {key: Option(text) for key, text in catalogue.load_flaws().items()}


def _list_tint_names() -> Mapping[str, Option]:
    return {tint.key: Option(tint.name) for tint in catalogue.load_tints().values()}


def list_asked_signs() -> list[str]:
    """Return the keys of the signs with a question."""
    return [sign.key for sign in catalogue.load_signs().values() if sign.ask]


def _read_places(name: str, value: Any) -> dict[str, Place]:
    places: dict[str, Place] = {}
    for key, place in checks.check_mapping(name, value).items():
        checks.name(name, key, (*PLACED, *catalogue.load_flaws()))
        places[key] = _read_place(f"{name}.{key}", place)
    return places


def _read_place(where: str, place: Any) -> Place:
    if place == STOPS:
        return STOPS
    if not isinstance(place, list | tuple) or len(place) != 2:
        raise InputError(
            where,
            place,
            (
                f"must be “{STOPS}”, or a start and an end as fractions of the seam, such as "
                "[0.8, 1]"
            ),
        )
    first, last = (checks.check_number(where, end, 0, 1) for end in place)
    if first > last:
        raise InputError(
            where, f"{first:g} to {last:g}", "must run from the start of the seam to its end"
        )
    return first, last


def _write_places(places: Mapping[str, Place]) -> Json:
    return {key: list(p) if isinstance(p, tuple) else p for key, p in places.items()}


def _build_places_schema() -> dict[str, Json]:
    share: dict[str, Json] = {"type": "number", "minimum": 0, "maximum": 1}
    pair: Json = {
        "type": "array",
        "prefixItems": [share, share],
        "minItems": 2,
        "maxItems": 2,
        "items": share,
    }
    names: Json = [*PLACED, *catalogue.load_flaws()]
    place: Json = {"anyOf": [{"const": STOPS}, pair]}
    return {"type": "object", "propertyNames": {"enum": names}, "additionalProperties": place}


def _read_answers(name: str, value: Any) -> dict[str, bool]:
    answers = checks.check_mapping(name, value)
    for key, answer in answers.items():
        checks.name(name, key, list_asked_signs())
        if not isinstance(answer, bool):
            raise InputError(f"{name}.{key}", answer, "must be true or false")
    return dict(answers)


def _build_answers_schema() -> dict[str, Json]:
    names: Json = list(list_asked_signs())
    return {
        "type": "object",
        "propertyNames": {"enum": names},
        "additionalProperties": {"type": "boolean"},
    }


_PLACES = Own(_read_places, _write_places, _build_places_schema)
_ANSWERS = Own(_read_answers, dict, _build_answers_schema)


class Inspection(Struct, frozen=True):
    """The observations of an inspection.

    None: not inspected.
    """

    faults: Annotated[tuple[str, ...] | None, Entry("names", names=_list_flaw_names)] = None
    look: Annotated[str | None, Entry("name", names=list_options(BEAD_SURFACES))] = None
    front_tint: Annotated[str | None, Entry("name", names=_list_tint_names)] = None
    back_tint: Annotated[str | None, Entry("name", names=_list_tint_names)] = None
    edges: Annotated[str | None, Entry("name", names=list_options(EDGES))] = None
    ripple: Annotated[str | None, Entry("name", names=list_options(RIPPLES))] = None
    band_mm: Annotated[
        float | None,
        Entry("number", low=0.1, high=MAX_BAND_MM, unit="mm", label="Width of the tint"),
    ] = None
    where: Annotated[Mapping[str, Place] | None, Entry("own", own=_PLACES)] = None
    told: Annotated[Mapping[str, bool] | None, Entry("own", own=_ANSWERS)] = None

    def place(self, key: str) -> Place | None:
        """Return the position of an observation along the seam."""
        return (self.where or {}).get(key)

    def answer(self, sign: str) -> bool | None:
        """Return the answer to the question about a sign."""
        return (self.told or {}).get(sign)


EMPTY_INSPECTION = Inspection()


def describe_place(place: Place) -> str:
    """Return the text of a position: "all along", "at the end", "from 30 to 55 %"."""
    if isinstance(place, str):
        return "at the stops"
    first, last = place
    for name, (a, b) in PLACES.items():
        if abs(first - a) < 1e-6 and abs(last - b) < 1e-6:
            return (
                "all along"
                if name == "all"
                else f"in the {name}"
                if name == "middle"
                else f"at the {name}"
            )
    return f"from {100 * first:.0f} to {100 * last:.0f} %"
