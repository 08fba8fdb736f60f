"""A rhythm without a seam: taps against a beat, on paper beside a phone."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

from msgspec import Struct

from ..errors import InputError
from ..schema.checks import check_number
from .grades import TOLERANCES, grade

# Taps that are needed to judge, and at most. Estimates.
MIN_TAPS, MAX_TAPS = 6, 2000
MAX_TAP_S = 600.0
# A tap that is missed counts as this error. Estimate.
_MISSED = 0.7


class Rhythm(Struct, frozen=True):
    """A judged rhythm.

    Score 0–100, mean time between taps s, how early (negative) or late the taps are to the beat s,
    spread s, and missed beats.
    """

    score: float
    mean_s: float
    late_s: float
    spread_s: float
    missed: int


def judge_taps(taps_s: Sequence[float], beat_s: float) -> Rhythm:
    """Judge taps against a beat that started at 0.

    Args:
        taps_s: Times of the taps, s, rising.
        beat_s: Time of a beat, s.

    Raises:
        InputError: There are too few or too many taps, or their times do not rise.

    References:
        Tolerances of dabs: estimate.
    """
    if not MIN_TAPS <= len(taps_s) <= MAX_TAPS:
        rule = f"are {len(taps_s)}. Tap at least {MIN_TAPS} times"
        raise InputError("taps", None, rule)
    times = [check_number("taps", time, 0, MAX_TAP_S, "s") for time in taps_s]
    if any(b <= a for a, b in pairwise(times)):
        raise InputError("taps", None, "must rise from tap to tap")
    gaps = [b - a for a, b in pairwise(times)]
    steps = [max(1, round(gap / beat_s)) for gap in gaps]
    missed = sum(step - 1 for step in steps)
    errors = [abs(math.log(gap / (beat_s * step))) for gap, step in zip(gaps, steps, strict=True)]
    error = (sum(errors) + _MISSED * missed) / (len(gaps) + missed)
    offsets = [time - beat_s * round(time / beat_s) for time in times]
    late = sum(offsets) / len(offsets)
    spread = math.sqrt(sum((offset - late) ** 2 for offset in offsets) / len(offsets))
    return Rhythm(grade(error, *TOLERANCES["dabs"]), sum(gaps) / len(gaps), late, spread, missed)
