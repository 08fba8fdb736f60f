"""A calculated field for the canvas of a page: pictures as 16-bit temperatures, base64.

The nodes across the seam run from the far edge of the second member over the seam to the far edge
of the first. A third strip (the far arm of a through member) is not in the map.
"""

from __future__ import annotations

import base64

import numpy as np

from ..core.conduction.grid import find_strip, list_strip_nodes
from ..core.conduction.outcome import Outcome
from ..core.conduction.tint import find_min_tint_c
from ..core.physics.heat import GLOW_C, HOT_BAND_C, SENSITISING_C
from ..core.schema.json_types import Json

_MAX_C = 4000


def _list_map_nodes(outcome: Outcome) -> tuple[np.ndarray, np.ndarray]:
    """Return the nodes of the map in order, and their signed distances from the seam, mm."""
    first, second = (
        list_strip_nodes(outcome.across, find_strip(outcome.problem, side))[1:] for side in (1, -1)
    )
    distance = outcome.across.distance_mm
    order = np.concatenate((second[::-1], [0], first))
    return order, np.concatenate((-distance[second][::-1], [0.0], distance[first]))


def _pack(temperature: np.ndarray) -> str:
    """Return temperatures as base64 of little-endian 16-bit whole degrees, row by row."""
    degrees = np.clip(np.rint(temperature), 0, _MAX_C).astype("<u2")
    return base64.b64encode(degrees.tobytes()).decode("ascii")


def write_heat_view(outcome: Outcome) -> dict[str, Json]:
    """Return the pictures of a field for a canvas.

    Args:
        outcome: The field.

    Returns:
        Nodes `across_mm`, columns (`columns`, `column_mm`, `divided`), the seam in the sheet
        (`start_mm`, `length_mm`), isotherms, cover, bars and tacks, and `frames`: time, place of
        the arc, `wide` (columns × nodes) and `narrow` from `first` on.
    """
    order, signed = _list_map_nodes(outcome)
    problem, along = outcome.problem, outcome.along
    frames: list[Json] = [
        {
            "t": round(frame.time_s, 3),
            "x": round(frame.arc_mm, 2),
            "burning": frame.burning,
            "gas": frame.gas,
            "wide": _pack(frame.wide_c[:, order]),
            "first": frame.first_column,
            "narrow": None if frame.narrow_c is None else _pack(frame.narrow_c[:, order]),
        }
        for frame in outcome.frames
    ]
    rows = np.add.reduceat(
        outcome.peak_c[:, order], np.arange(0, len(outcome.peak_c), along.divided)
    )
    return {
        "across_mm": [round(float(y), 3) for y in signed],
        "columns": along.columns,
        "column_mm": round(along.width_mm, 4),
        "divided": along.divided,
        "start_mm": problem.seam_mm,
        "length_mm": round(problem.length_mm, 2),
        "closed": problem.closed,
        "melts_c": problem.metal.liquidus_c,
        "glow_c": GLOW_C,
        "tint_c": HOT_BAND_C,
        "sensitising_c": SENSITISING_C,
        "straw_c": find_min_tint_c(),
        "cover_mm": round(problem.cover_mm, 2),
        "bar_from_mm": next(
            (round(s.bar_from_mm, 1) for s in problem.strips if s.bar_from_mm is not None), None
        ),
        "tacks_mm": [[round(end, 2) for end in tack] for tack in problem.tacks_mm],
        "stopped_s": round(outcome.stopped_s, 2),
        "frames": frames,
        "peak": _pack(rows / along.divided),
    }
