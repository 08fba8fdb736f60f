"""The observations of a run by its latest inspection, which overrides the record."""

from __future__ import annotations

from .. import catalogue
from .inspection import AMOUNTS_TO, BRIGHT, EMPTY_INSPECTION, FACE_NAMES, PLACED
from .run import Run


def find_flaws(run: Run) -> tuple[str, ...] | None:
    """Return the flaws of a run by inspection or record, with those that other observations imply.

    Edges, ripple and surface can imply a flaw. None: not inspected.
    """
    inspection = run.seen or EMPTY_INSPECTION
    flaws = run.faults if inspection.faults is None else inspection.faults
    more = [
        AMOUNTS_TO[k]
        for k in (inspection.edges, inspection.ripple, find_bead_surface(run))
        if k in AMOUNTS_TO
    ]
    return None if flaws is None and not more else tuple(dict.fromkeys((*(flaws or ()), *more)))


def find_bead_surface(run: Run) -> str | None:
    """Return the surface of the bead."""
    return (run.seen or EMPTY_INSPECTION).look or run.look


def find_colour(run: Run, face: str) -> str:
    """Return the colour of a face: of the observed tint, or else as recorded.

    Args:
        run: The run.
        face: "front" or "back".
    """
    tint = catalogue.load_tints().get(str(getattr(run.seen or EMPTY_INSPECTION, f"{face}_tint")))
    return tint.colour if tint else str(getattr(run, face).colour)


def is_oxidised(run: Run) -> bool:
    """Return whether the root is oxidised, by inspection or record."""
    answer = (run.seen or EMPTY_INSPECTION).answer("sugar")
    return run.back.colour == "sugar" if answer is None else answer


def list_placed(run: Run) -> list[tuple[str, str]]:
    """Return the observations with a position, by key and text: flaws, and faces with a tint."""
    placed = [(key, "") for key in find_flaws(run) or ()]
    for face in PLACED:
        tint = catalogue.load_tints().get(
            str(getattr(run.seen or EMPTY_INSPECTION, f"{face}_tint"))
        )
        if tint is not None and tint.colour not in BRIGHT:
            placed.append((face, f"{tint.name} on the {FACE_NAMES[face]}"))
    return placed
