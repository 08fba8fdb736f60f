"""The beads of this shop that were measured in a photograph and by callipers."""

from __future__ import annotations

from msgspec import Struct

from ...core.photograph.correction import Correction, WidthPair, calculate_correction
from ...core.run.photographed import find_measurement
from ...store import queries
from ...store.errors import StoreError
from ...store.models import RunRow

# Older beads are left out: another phone, another printer.
MAX_BEADS = 60


class ComparedBead(Struct, frozen=True):
    """A bead with both widths, and its run."""

    run: RunRow
    pair: WidthPair


def list_compared_beads() -> list[ComparedBead]:
    """Return the last beads with both widths, the newest first.

    Unreadable records are left out.
    """
    beads = []
    for run in queries.list_measured_runs(MAX_BEADS):
        try:
            document = run.document
        except StoreError:
            continue
        measurement, own_mm = find_measurement(document, "front"), document.measured.bead_mm
        if own_mm is not None and measurement is not None and measurement.bead is not None:
            bead = measurement.bead
            raw_mm = bead.width_mm - bead.correction_mm
            beads.append(ComparedBead(run, WidthPair(round(raw_mm, 3), own_mm)))
    return beads


def load_correction() -> Correction:
    """Return the correction of this shop."""
    return calculate_correction([bead.pair for bead in list_compared_beads()])
