"""What is seen of a run on a closer look: the tint of each face, edges, ripple, how wide the tinted
band is, faults and where along the seam, answers to what was asked.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from .. import catalogue
from ..errors import BadInput
from ..schema import checks
from .arc_record import LOOKS

EDGES = {"blend": "blend in", "stand": "stand up", "undercut": "undercut", "melted": "melted away"}
RIPPLES = {"even": "even", "uneven": "uneven", "tails": "with tails", "none": "none to see"}
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
KEYS = ("faults", "look", "front_tint", "back_tint", "edges", "ripple", "band_mm", "where", "told")
MOST_BAND_MM = 200.0
# what has a place: the faces, besides the faults
PLACED = ("front", "back")
# colours that ask nothing: published tints, common practice
BRIGHT = ("silver", "straw")
# sound where the service is dry; and the dull grey of a face that was not shielded
TINTED = ("brown", "purple", "blue")
UNSHIELDED = "grey"


def check_seen(seen: Mapping[str, Any], faults: Mapping[str, str]) -> None:
    """Refuse what cannot have been seen. Parameters: faults, those that a run can name. Raises
    BadInput.
    """
    checks.keys("seen", seen, KEYS)
    for i, fault in enumerate(checks.rows("seen.faults", seen.get("faults") or [], len(faults))):
        checks.name(f"seen.faults[{i}]", fault, faults)
    if seen.get("look") is not None:
        checks.name("seen.look", seen["look"], LOOKS)
    for key, known in (
        ("front_tint", catalogue.tints()),
        ("back_tint", catalogue.tints()),
        ("edges", EDGES),
        ("ripple", RIPPLES),
    ):
        if seen.get(key) is not None:
            checks.name(f"seen.{key}", seen[key], known)
    if seen.get("band_mm") is not None:
        checks.number("seen.band_mm", seen["band_mm"], 0.1, MOST_BAND_MM, "mm")
    for key, place in checks.mapping("seen.where", seen.get("where") or {}).items():
        checks.name("seen.where", key, (*PLACED, *faults))
        _check_place(f"seen.where.{key}", place)
    for key, answer in checks.mapping("seen.told", seen.get("told") or {}).items():
        checks.name("seen.told", key, [s.key for s in catalogue.signs().values() if s.ask])
        if not isinstance(answer, bool):
            raise BadInput(f"seen.told.{key}", answer, "must be true or false")


def _check_place(where: str, place: Any) -> None:
    if place == STOPS:
        return
    if not isinstance(place, list | tuple) or len(place) != 2:
        raise BadInput(
            where,
            place,
            f"must be “{STOPS}”, or from where to where as shares of the seam, such as [0.8, 1]",
        )
    first, last = (checks.number(where, one, 0, 1) for one in place)
    if first > last:
        raise BadInput(
            where, f"{first:g} to {last:g}", "must go from the start of the seam to its end"
        )


def faults_of(run: Mapping[str, Any]) -> tuple[str, ...] | None:
    """The faults of a run: as seen on a closer look, else as written down, and those that edges,
    ripple and look amount to; None where nobody looked.
    """
    seen = run.get("seen") or {}
    found = run.get("faults") if seen.get("faults") is None else seen["faults"]
    looks = (seen.get("edges"), seen.get("ripple"), look_of(run))
    more = [AMOUNTS_TO[one] for one in looks if one in AMOUNTS_TO]
    return None if found is None and not more else tuple(dict.fromkeys((*(found or ()), *more)))


def look_of(run: Mapping[str, Any]) -> str | None:
    """The look of its bead: on a closer look, else as written down."""
    return (run.get("seen") or {}).get("look") or run.get("look")


def colour_of(run: Mapping[str, Any], face: str) -> str | None:
    """The colour of a face: of the tint that was chosen, else as it was written down."""
    tint = catalogue.tints().get(str((run.get("seen") or {}).get(f"{face}_tint")))
    return tint.colour if tint else (run.get(face) or {}).get("colour")


def sugared(run: Mapping[str, Any]) -> bool:
    """Whether the back is told as sugared, by either."""
    told = ((run.get("seen") or {}).get("told") or {}).get("sugar")
    return bool(told) if told is not None else (run.get("back") or {}).get("colour") == "sugar"


def placed(run: Mapping[str, Any]) -> list[tuple[str, str]]:
    """What of a run has a place along the seam, by key and in words: its faults, and faces by a
    tint that is not bright.
    """
    found = [(key, "") for key in faults_of(run) or ()]
    for face in PLACED:
        tint = catalogue.tints().get(str((run.get("seen") or {}).get(f"{face}_tint")))
        if tint is not None and tint.colour not in BRIGHT:
            found.append((face, f"{tint.name} on the {face}"))
    return found


def place_words(place: Any) -> str:
    """A place along the seam in words: "all along", "at the end", "from 30 to 55 %"."""
    if place == STOPS:
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
