"""The scores of a practised weld, 0 to 100, against the plan.

Each score halves with every step of its error beyond a tolerance. Tolerances and steps are
estimates around the targets of handbook 16: width within 10 %, pool within 2 s at a restart, a
taper of 1 to 2 s, still until the gas stops.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from ..conduction.metal import Floats
from .grades import TOLERANCES, grade
from .motion import ArcPart, MotionFacts
from .piece import Piece

# At a restart: late beyond the limit s; off the crater, and a pool too small, in target widths.
# Estimates.
LATE_S, OFFSET, SMALL = (0.2, 0.8), (0.6, 0.5), (0.35, 0.2)
# At the end: missing shares of taper and of the time under gas. Estimates.
TAPER_SHORT, HELD_SHORT = (0.20, 0.35), (0.06, 0.30)
# The lowest score counts as much as the mean of all: one slip spoils a bead. Estimate.
WORST_SHARE = 0.5
# The part of a wrong rate of the dabs that counts beside their unevenness. Estimate.
RATE_SHARE = 0.5
# A seam counts as complete from this fused share on: its ends are in the taper. Estimate.
COMPLETE_SHARE = 0.97
# An error beyond this counts as this. Estimate.
_MAX_ERROR = 2.0


class Scores(Struct, frozen=True):
    """Scores 0–100; None where the seam has nothing of it."""

    travel: float | None
    current: float | None
    line: float | None
    dabs: float | None
    width: float | None
    overlap: float | None
    restarts: float | None
    end: float | None
    total: float

    def get_parts(self) -> dict[str, float | None]:
        """Return the scores by their keys, without the total."""
        return {key: getattr(self, key) for key in self.__struct_fields__ if key != "total"}


def measure_error(rows: Floats, target: float) -> float:
    """Return the mean relative error of the second column, as a logarithm.

    Args:
        rows: Rows (n, 2): place and value.
        target: The target.
    """
    ratio = np.abs(np.log(np.maximum(rows[:, 1], 1e-3) / target))
    return float(np.minimum(ratio, _MAX_ERROR).mean())


def measure_dab_error(facts: MotionFacts, beat_s: float) -> float:
    """Return the error of the dabs: their unevenness, and a part of a wrong rate. Estimate.

    Who travels too fast also dabs too fast. Its rate counts less than its rhythm.

    Args:
        facts: The measurements, with two intervals at least.
        beat_s: Planned time between two dabs, s.
    """
    median = float(np.median(facts.intervals[:, 1]))
    return measure_error(facts.intervals, median) + RATE_SHARE * abs(
        math.log(max(median, 1e-3) / beat_s)
    )


def score_motion(facts: MotionFacts, piece: Piece) -> Scores:
    """Score a practised weld.

    Args:
        facts: Its measurements.
        piece: The piece.
    """
    parts: dict[str, float | None] = {
        "travel": _score_rows(facts.travel, piece.travel_mm_s, "travel"),
        "current": _score_rows(facts.current, piece.peak_a, "current"),
        "line": _score_line(facts, piece),
        "dabs": _score_dabs(facts, piece),
        "width": _score_rows(facts.widths, piece.target_mm, "width"),
        "overlap": _score_overlap(facts, piece),
        "restarts": _score_restarts(facts, piece),
        "end": _score_end(facts, piece),
    }
    known = [value for value in parts.values() if value is not None]
    total = 0.0
    if known and facts.parts:
        mean = sum(known) / len(known)
        total = (1 - WORST_SHARE) * mean + WORST_SHARE * min(known)
        total *= min(1.0, facts.welded_share / COMPLETE_SHARE)
    return Scores(**parts, total=total)


def _score_rows(rows: Floats, target: float, key: str) -> float:
    if not len(rows):
        return 0.0
    return grade(measure_error(rows, target), *TOLERANCES[key])


def _score_line(facts: MotionFacts, piece: Piece) -> float:
    if not len(facts.off):
        return 0.0
    return grade(float(np.abs(facts.off[:, 1]).mean()) / piece.target_mm, *TOLERANCES["line"])


def _score_dabs(facts: MotionFacts, piece: Piece) -> float | None:
    if piece.dab_pitch_mm is None or piece.beat_s is None:
        return None
    if len(facts.intervals) < 2:
        return 0.0
    error = measure_dab_error(facts, piece.beat_s)
    lost = facts.lost_dabs / (len(facts.intervals) + facts.lost_dabs)
    return grade(error + lost, *TOLERANCES["dabs"])


def _score_overlap(facts: MotionFacts, piece: Piece) -> float | None:
    if piece.beat_pitch_mm is None:
        return None
    if not len(facts.overlaps):
        return 0.0
    error = np.abs(facts.overlaps[:, 1] - piece.find_overlap(piece.beat_pitch_mm))
    return grade(float(np.minimum(error, 1.0).mean()), *TOLERANCES["overlap"])


def list_restarts(facts: MotionFacts) -> list[tuple[ArcPart, ArcPart]]:
    """Return each restart: the arc before and the arc after it."""
    return list(zip(facts.parts, facts.parts[1:], strict=False))


def _score_restarts(facts: MotionFacts, piece: Piece) -> float | None:
    pairs = list_restarts(facts)
    if not pairs:
        return None if piece.stop_mm is None else 0.0
    return min(grade_restart(before, after, piece).total for before, after in pairs)


class RestartGrades(Struct, frozen=True):
    """The scores of a restart: its time, its place, and its pool when the torch moved on."""

    late: float
    offset: float
    small: float

    @property
    def total(self) -> float:
        """Return the worst of them."""
        return min(self.late, self.offset, self.small)


def grade_restart(before: ArcPart, after: ArcPart, piece: Piece) -> RestartGrades:
    """Return the scores of a restart.

    Args:
        before: The arc before it.
        after: The arc after it.
        piece: The piece.
    """
    return RestartGrades(
        grade(after.pool_s - piece.pool_limit_s, *LATE_S),
        grade(abs(after.strike_mm - before.end_mm) / piece.target_mm, *OFFSET),
        grade(1 - after.moved_width_mm / piece.target_mm, *SMALL),
    )


def _score_end(facts: MotionFacts, piece: Piece) -> float | None:
    if not facts.parts:
        return None
    taper, held = grade_end(facts, piece)
    return taper if held is None else min(taper, held)


def grade_end(facts: MotionFacts, piece: Piece) -> tuple[float, float | None]:
    """Return the scores of the taper and of the time under gas, the latter None if unknown.

    Args:
        facts: Its measurements.
        piece: The piece.
    """
    taper = grade(1 - facts.parts[-1].taper_s / piece.taper_s, *TAPER_SHORT)
    if facts.held_s is None or piece.postflow_s <= 0:
        return taper, None
    return taper, grade(1 - facts.held_s / piece.postflow_s, *HELD_SHORT)
