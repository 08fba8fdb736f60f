"""The grid: nodes across the strips, fine columns around the arc, coarse columns along the seam.

Across the seam the nodes of all strips share one node on the seam. Between nodes heat flows through
the thickness of the strip. Columns along the seam are coarse; around the arc each coarse column is
divided into fine ones.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from .metal import Floats
from .problem import Problem, Strip

# The grid is fine to this distance from the seam, then each step grows by a factor to a maximum.
_FINE_TO_MM, _GROWTH, _MAX_STEP_MM = 10.0, 1.4, 8.0
COARSE_MM = 3.0


class Across(Struct, frozen=True, eq=False):
    """The nodes across the seam; n nodes, the first on the seam.

    Distances from the seam mm (n), strip of each node (n, 0 for the seam), sections of the cells
    mm² (n), their face areas per mm of seam, one face, mm (n), and the flow matrix (n × n): θ times
    it is the heat flow into each cell, W/mm, for 1 mm of seam. `loads` (n) is the share of the
    power in each cell for a Gaussian arc. `barred` (n) is the part of a cell under a bar, 0–1.
    """

    distance_mm: Floats
    strip: np.ndarray
    section_mm2: Floats
    face_mm: Floats
    flow: Floats
    loads: Floats
    barred: Floats


class Along(Struct, frozen=True):
    """The columns: number of coarse columns, their width mm, and fine columns in each."""

    columns: int
    width_mm: float
    divided: int

    @property
    def fine_mm(self) -> float:
        """Return the width of a fine column, mm."""
        return self.width_mm / self.divided


def _list_steps_mm(strip: Strip, grid_mm: float) -> list[float]:
    """Return the distances between nodes, from the seam to the edge of a strip."""
    steps, at, step = [], 0.0, grid_mm
    while at < strip.width_mm - 1e-9:
        if at >= _FINE_TO_MM:
            step = min(_MAX_STEP_MM, step * _GROWTH)
        left = strip.width_mm - at
        # The last steps divide what is left, so that no sliver limits the time step.
        taken = left if left < 1.5 * step else step
        steps.append(taken)
        at += taken
    return steps


def build_across(problem: Problem) -> Across:
    """Return the nodes across the seam."""
    distance, strip_numbers, section, face, barred = [0.0], [0], [0.0], [0.0], [0.0]
    links: list[tuple[int, int, float]] = []
    loads = [0.0]
    spread = problem.arc.spread_mm * math.sqrt(2)
    for number, strip in enumerate(problem.strips, start=1):
        steps = _list_steps_mm(strip, problem.grid_mm)
        thick = strip.thickness_mm * strip.count
        node, at = 0, 0.0
        section[0] += thick * steps[0] / 2
        face[0] += strip.count * steps[0] / 2
        # The part of the arc on this strip: the integral of the Gaussian over its cells.
        cut = math.erf(strip.width_mm / spread)
        loads[0] += strip.heat_share * math.erf(steps[0] / 2 / spread) / cut
        for i, step in enumerate(steps):
            at += step
            after = steps[i + 1] if i + 1 < len(steps) else 0.0
            low, high = at - step / 2, at + after / 2
            links.append((node, len(distance), thick / step))
            node = len(distance)
            distance.append(at)
            strip_numbers.append(number)
            section.append(thick * (high - low))
            face.append(strip.count * (high - low))
            gained = math.erf(high / spread) - math.erf(low / spread)
            loads.append(strip.heat_share * gained / cut)
            start = strip.bar_from_mm
            under = 0.0 if start is None else (high - max(low, start)) / (high - low)
            barred.append(min(1.0, max(0.0, under)))
    flow = np.zeros((len(distance), len(distance)))
    for first, second, conductance in links:
        flow[first, second] += conductance
        flow[second, first] += conductance
        flow[first, first] -= conductance
        flow[second, second] -= conductance
    return Across(
        distance_mm=np.array(distance),
        strip=np.array(strip_numbers),
        section_mm2=np.array(section),
        face_mm=np.array(face),
        flow=flow,
        loads=np.array(loads) / sum(loads),
        barred=np.array(barred),
    )


def build_along(problem: Problem) -> Along:
    """Return the columns along the seam."""
    extent = problem.length_mm + (0.0 if problem.closed else problem.before_mm + problem.after_mm)
    divided = max(1, round(COARSE_MM / problem.grid_mm))
    columns = max(1, round(extent / (divided * problem.grid_mm)))
    return Along(columns, extent / columns, divided)
