"""The tints of the faces in a run form: those of the heat-tint table, and what is no tint."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from ..core import catalogue
from ..core.run.inspection import COLOUR_NAMES, EMPTY_INSPECTION, SIDES
from ..core.run.run import Run
from ..core.schema.json_types import Json


class FaceChoice(Struct, frozen=True):
    """A choice for a face: key of a tint or colour, name, and the ink of a tint."""

    key: str
    name: str
    ink: str = ""


def list_face_choices(typed: Mapping[str, str]) -> dict[str, list[FaceChoice]]:
    """Return the choices of each face.

    A colour of an older record without its tint stays a choice.

    Args:
        typed: The form.
    """
    tints = catalogue.load_tints()
    colours = {tint.colour for tint in tints.values()}
    choices = {}
    for face, known in SIDES.items():
        options = [FaceChoice(tint.key, tint.name, tint.ink[0]) for tint in tints.values()]
        options += [FaceChoice(key, COLOUR_NAMES[key]) for key in known if key not in colours]
        now = typed.get(face, "")
        if now in known and now not in {option.key for option in options}:
            options.append(FaceChoice(now, COLOUR_NAMES[now]))
        choices[face] = options
    return choices


def get_face_colour(key: str | None) -> str | None:
    """Return the colour of a choice, as a run records it."""
    tint = catalogue.load_tints().get(key or "")
    return tint.colour if tint else key


def read_face_tints(typed: Mapping[str, str]) -> dict[str, Json]:
    """Return the tints of a form as data of an inspection.

    Args:
        typed: The form.
    """
    tints = catalogue.load_tints()
    return {f"{face}_tint": typed[face] for face in SIDES if typed.get(face) in tints}


def get_face_key(run: Run, face: str) -> str:
    """Return the choice of a recorded face.

    Args:
        run: The run.
        face: "front" or "back".
    """
    tint = getattr(run.seen or EMPTY_INSPECTION, f"{face}_tint")
    return str(tint or getattr(run, face).colour)
