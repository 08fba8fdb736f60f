"""What a calculated field holds: peaks, pools, pictures and the history of probes."""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from .grid import Across, Along
from .metal import Floats
from .problem import Problem


class PoolAt(Struct, frozen=True):
    """The pool at a time s, with the arc at a place mm: width and length mm."""

    time_s: float
    arc_mm: float
    width_mm: float
    length_mm: float


class Frame(Struct, frozen=True, eq=False):
    """A picture of the field.

    Time s, place of the arc mm, whether the arc burns and the gas flows, temperatures °C of the
    coarse columns (columns, nodes), the first coarse column that is fine, and the temperatures of
    the fine columns, or None.
    """

    time_s: float
    arc_mm: float
    burning: bool
    gas: bool
    coarse_c: NDArray[np.float32]
    first_column: int
    fine_c: NDArray[np.float32] | None


class Outcome(Struct, frozen=True, eq=False):
    """A calculated field.

    The seam with its grid, step s, when the arc moved and stopped s, the end s, energy of the arc,
    into the bars and lost in all J, the balance as a fraction, highest temperatures °C, tint
    temperatures of the bare front and back °C (fine columns, nodes), the hottest place over time,
    the pools, the pictures, and the history of the probes (time s, then °C).
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
    peak_c: Floats
    front_c: Floats
    back_c: Floats
    max_at_s: Floats
    max_c: Floats
    pools: tuple[PoolAt, ...]
    frames: tuple[Frame, ...]
    history: Floats
