"""What is seen of a run on a closer look: the tint of each face, edges, ripple, how wide the tinted
band is, flaws and where along the seam, answers to what was asked.
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
FACES = {"front": FRONT_COLOURS, "back": BACK_COLOURS}
# Names on screen. The keys are fixed by the file format.
FACE_NAMES = {"front": "face", "back": "root"}
COLOUR_NAMES = {
    **{colour: colour for colour in FRONT_COLOURS},
    "sugar": "oxidised (sugar)",
    "not-seen": "not checked",
}
LOOKS = {
    "even": "even, overlapping ripples",
    "smooth": "smooth and flat",
    "proud": "high, ropey",
    "sunk": "sunk, with undercut",
    "wide": "wide, wandering",
    "rough": "rough, pitted",
}
EDGES = {"blend": "blend in", "stand": "unmelted", "undercut": "undercut", "melted": "melted away"}
RIPPLES = {"even": "even", "uneven": "uneven", "tails": "with tails", "none": "no ripples"}
# where along the seam, as shares of it
PLACES: Mapping[str, tuple[float, float]] = {
    "start": (0.0, 0.2),
    "middle": (0.2, 0.8),
    "end": (0.8, 1.0),
    "all": (0.0, 1.0),
}
STOPS = "stops"
# the fault that edges, ripple and look amount to
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
# what has a place: the faces, besides the faults
PLACED = ("front", "back")
# colours that ask nothing: published tints, common practice
BRIGHT = ("silver", "straw")
# sound where the service is dry; and the dull grey of a face that was not shielded
TINTED = ("brown", "purple", "blue")
UNSHIELDED = "grey"


# from where to where along the seam, as shares of it, or "stops"
Place: TypeAlias = str | tuple[float, float]


def _list_flaw_names() -> Mapping[str, Option]:
    return {key: Option(words) for key, words in catalogue.load_flaws().items()}


def _list_tint_names() -> Mapping[str, Option]:
    return {tint.key: Option(tint.name) for tint in catalogue.load_tints().values()}


def list_asked_signs() -> list[str]:
    """The keys of the signs that a question is asked for."""
    return [sign.key for sign in catalogue.load_signs().values() if sign.ask]


def _read_places(name: str, value: Any) -> dict[str, Place]:
    found: dict[str, Place] = {}
    for key, place in checks.check_mapping(name, value).items():
        checks.name(name, key, (*PLACED, *catalogue.load_flaws()))
        found[key] = _read_place(f"{name}.{key}", place)
    return found


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
    first, last = (checks.check_number(where, one, 0, 1) for one in place)
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
    found = checks.check_mapping(name, value)
    for key, answer in found.items():
        checks.name(name, key, list_asked_signs())
        if not isinstance(answer, bool):
            raise InputError(f"{name}.{key}", answer, "must be true or false")
    return dict(found)


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
    """What was seen on a closer look; None where nobody looked."""

    faults: Annotated[tuple[str, ...] | None, Entry("names", names=_list_flaw_names)] = None
    look: Annotated[str | None, Entry("name", names=list_options(LOOKS))] = None
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
        """Where along the seam something was seen."""
        return (self.where or {}).get(key)

    def answer(self, sign: str) -> bool | None:
        """The answer to what was asked of a sign."""
        return (self.told or {}).get(sign)


NOTHING_SEEN = Inspection()


def place_words(place: Place) -> str:
    """A place along the seam in words: "all along", "at the end", "from 30 to 55 %"."""
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
