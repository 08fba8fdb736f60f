"""What a calculated field holds: peaks, pools, pictures and the history of probes."""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from .grid import Across, Along
from .metal import Floats
from .problem import Problem

# The middle of the steady part of a seam, as a share of its length: its start has passed, and its
# end does not reach back.
MIDDLE_SHARE = 0.575


class PoolAt(Struct, frozen=True):
    """The pool at a time s, with the arc at a place mm: width and length mm."""

    time_s: float
    arc_mm: float
    width_mm: float
    length_mm: float


class Frame(Struct, frozen=True, eq=False):
    """A picture of the field.

    Time s, place of the arc mm, whether the arc burns and the gas flows, temperatures °C of the
    wide columns (columns, nodes), the first wide column that is narrow, and the temperatures of
    the narrow columns, or None.
    """

    time_s: float
    arc_mm: float
    burning: bool
    gas: bool
    wide_c: NDArray[np.float32]
    first_column: int
    narrow_c: NDArray[np.float32] | None


class Outcome(Struct, frozen=True, eq=False):
    """A calculated field.

    The seam with its grid, step s, when the arc moved and stopped s, the end s, energy of the arc,
    into the bars and lost in all J, the balance as a fraction, the mean of the sheet when the arc
    goes out °C, highest temperatures °C, tint temperatures of the bare front and back °C (narrow
    columns, nodes), the hottest place over time, the pools, the pictures, and the history of the
    probes and of the middle of the seam (time s, then °C).
    """

    problem: Problem
    across: Across
    along: Along
    step_s: float
    moving_from_s: float
    stopped_s: float
    end_s: float
    input_j: float
    barred_j: float
    lost_j: float
    balance: float
    mean_end_c: float
    peak_c: Floats
    front_c: Floats
    back_c: Floats
    max_at_s: Floats
    max_c: Floats
    pools: tuple[PoolAt, ...]
    frames: tuple[Frame, ...]
    history: Floats

    def get_seam_rows(self) -> slice:
        """Return the narrow columns of the seam."""
        first, width = self.problem.seam_mm, self.along.narrow_mm
        return slice(round(first / width), round((first + self.problem.length_mm) / width))
