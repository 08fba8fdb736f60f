"""The measurements in the photographs of a run, as its observations.

The welder's own word comes first. A measured value fills an observation that nobody entered.
"""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from .. import catalogue
from ..photograph.measurement import Measurement
from .inspection import MAX_BAND_MM, Inspection
from .run import Run

# Ripples whose distances vary by more than this part of the pitch are uneven. Estimate
# "photograph": beads rendered with even ripples vary by up to 0.15.
MAX_EVEN_SPREAD = 0.2


class Observed(Struct, frozen=True):
    """The observations that the photographs of a run show. None: not measured."""

    front_tint: str | None = None
    back_tint: str | None = None
    ripple: str | None = None
    band_mm: float | None = None
    bead_mm: float | None = None
    bow_mm: float | None = None


def find_measurement(run: Run, face: str) -> Measurement | None:
    """Return the last measurement of a face in the photographs of a run, or None.

    Args:
        run: The run.
        face: "front" or "back".
    """
    measured = [p.measured for p in run.photographs if p.face == face and p.measured is not None]
    return measured[-1] if measured else None


def read_photographs(run: Run) -> Observed:
    """Return the observations that the photographs of a run show.

    Args:
        run: The run.
    """
    front, back = find_measurement(run, "front"), find_measurement(run, "back")
    bead = front.bead if front is not None else None
    ripple = band_mm = None
    if bead is not None and bead.pitch_mm and bead.pitch_sd_mm is not None:
        ripple = "uneven" if bead.pitch_sd_mm > MAX_EVEN_SPREAD * bead.pitch_mm else "even"
    if front is not None and bead is not None and front.band_mm:
        band_mm = round(min(bead.width_mm + 2 * front.band_mm, MAX_BAND_MM), 1)
    bows = [p.measured.bow_mm for p in run.photographs if p.measured is not None]
    return Observed(
        front.tint if front is not None else None,
        back.tint if back is not None else None,
        ripple,
        band_mm,
        round(bead.width_mm, 2) if bead is not None else None,
        next((bow for bow in reversed(bows) if bow is not None), None),
    )


def use_photographs(run: Run) -> Run:
    """Return a run with the bead width and the bow of its photographs, if nobody entered them.

    Args:
        run: The run.
    """
    observed, measured = read_photographs(run), run.measured
    bead_mm = observed.bead_mm if measured.bead_mm is None else measured.bead_mm
    bow_mm = observed.bow_mm if measured.bow_mm is None else measured.bow_mm
    return replace(run, measured=replace(measured, bead_mm=bead_mm, bow_mm=bow_mm))


def fill_inspection(inspection: Inspection, run: Run) -> Inspection:
    """Return an inspection with the observations of the photographs that nobody entered.

    A measured tint makes an entered colour exact. It never replaces another colour.

    Args:
        inspection: The inspection before.
        run: The run.
    """
    observed, seen = read_photographs(run), run.seen or Inspection()
    tints = {}
    for face in ("front", "back"):
        key = f"{face}_tint"
        measured, entered = getattr(observed, key), getattr(run, face).colour
        is_open = getattr(seen, key) is None
        if measured is not None and is_open and catalogue.load_tints()[measured].colour == entered:
            tints[key] = measured
    return replace(
        inspection,
        **tints,
        ripple=inspection.ripple or observed.ripple,
        band_mm=inspection.band_mm or observed.band_mm,
    )
