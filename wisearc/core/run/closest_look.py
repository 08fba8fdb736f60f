"""What is seen of a run on the closest look that was taken of it: later looks go before what was
written down.
"""

from __future__ import annotations

from .. import catalogue
from .inspection import AMOUNTS_TO, BRIGHT, FACE_NAMES, NOTHING_SEEN, PLACED
from .run import Run


def find_flaws(run: Run) -> tuple[str, ...] | None:
    """The flaws of a run: as seen on a closer look, else as written down, and those that edges,
    ripple and look amount to; None where nobody looked.
    """
    seen = run.seen or NOTHING_SEEN
    found = run.faults if seen.faults is None else seen.faults
    more = [AMOUNTS_TO[k] for k in (seen.edges, seen.ripple, find_look(run)) if k in AMOUNTS_TO]
    return None if found is None and not more else tuple(dict.fromkeys((*(found or ()), *more)))


def find_look(run: Run) -> str | None:
    """The look of its bead."""
    return (run.seen or NOTHING_SEEN).look or run.look


def find_colour(run: Run, face: str) -> str:
    """The colour of a face: of the tint that was chosen, else as it was written down."""
    tint = catalogue.load_tints().get(str(getattr(run.seen or NOTHING_SEEN, f"{face}_tint")))
    return tint.colour if tint else str(getattr(run, face).colour)


def is_oxidised(run: Run) -> bool:
    """Whether the back is told as oxidised, by either."""
    told = (run.seen or NOTHING_SEEN).answer("sugar")
    return run.back.colour == "sugar" if told is None else told


def list_placed(run: Run) -> list[tuple[str, str]]:
    """What of a run has a place along the seam, by key and in words: its flaws, and faces by a tint
    that is not bright.
    """
    found = [(key, "") for key in find_flaws(run) or ()]
    for face in PLACED:
        tint = catalogue.load_tints().get(str(getattr(run.seen or NOTHING_SEEN, f"{face}_tint")))
        if tint is not None and tint.colour not in BRIGHT:
            found.append((face, f"{tint.name} on the {FACE_NAMES[face]}"))
    return found
