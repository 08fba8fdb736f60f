"""The grid: nodes across the strips, narrow columns around the arc, wide columns along the seam.

Across the seam the nodes of all strips share one node on the seam. Between nodes heat flows through
the thickness of the strip. Columns along the seam are wide; around the arc each wide column is
divided into narrow ones.
"""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from .metal import Floats
from .problem import Problem, Strip

# The steps are equal to this distance from the seam, then each step grows by a factor to a maximum.
_NARROW_TO_MM, _GROWTH, _MAX_STEP_MM = 10.0, 1.4, 8.0
WIDE_MM = 3.0


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
    """The columns: number of wide columns, their width mm, and narrow columns in each."""

    columns: int
    width_mm: float
    divided: int

    @property
    def narrow_mm(self) -> float:
        """Return the width of a narrow column, mm."""
        return self.width_mm / self.divided


def _list_steps_mm(strip: Strip, grid_mm: float) -> list[float]:
    """Return the distances between nodes, from the seam to the edge of a strip."""
    steps, at, step = [], 0.0, grid_mm
    while at < strip.width_mm - 1e-9:
        if at >= _NARROW_TO_MM:
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
    divided = max(1, round(WIDE_MM / problem.grid_mm))
    columns = max(1, round(extent / (divided * problem.grid_mm)))
    return Along(columns, extent / columns, divided)


def list_strip_nodes(across: Across, number: int) -> NDArray[np.intp]:
    """Return the nodes of a strip from the seam to its edge.

    Args:
        across: The nodes across the seam.
        number: Number of the strip, from 1.
    """
    nodes: NDArray[np.intp] = np.flatnonzero((across.strip == number) | (across.strip == 0))
    return nodes


def find_strip(problem: Problem, y_mm: float) -> int:
    """Return the number of the strip on a side of the seam.

    Args:
        problem: The seam.
        y_mm: Signed distance from the seam, mm, positive on the first member.
    """
    side = 1 if y_mm >= 0 else -1
    sides = [strip.side for strip in problem.strips]
    return next((i for i, other in enumerate(sides, 1) if other in (0, side)), 1)


def find_node(across: Across, problem: Problem, y_mm: float) -> tuple[int, int, float]:
    """Return the nodes beside a place, and the share of the second.

    Args:
        across: The nodes across the seam.
        problem: The seam.
        y_mm: Signed distance from the seam, mm, positive on the first member.
    """
    nodes = list_strip_nodes(across, find_strip(problem, y_mm))
    place = float(np.interp(abs(y_mm), across.distance_mm[nodes], np.arange(len(nodes))))
    before = min(len(nodes) - 2, int(place))
    return int(nodes[before]), int(nodes[before + 1]), place - before


def measure_reach_mm(across: Across, number: int, temperature: Floats, limit_c: float) -> Floats:
    """Return how far from the seam each column exceeds a temperature on a strip, mm.

    Args:
        across: The nodes across the seam.
        number: Number of the strip, from 1.
        temperature: Temperatures °C, shape (columns, nodes).
        limit_c: The temperature, °C.
    """
    nodes = list_strip_nodes(across, number)
    values, distance = temperature[:, nodes], across.distance_mm[nodes]
    hot = values >= limit_c
    # The first node that is colder, counted from the seam.
    colder = np.where(hot.all(axis=1), len(distance), np.argmin(hot, axis=1))
    rows, inside = np.arange(len(values)), np.clip(colder - 1, 0, len(distance) - 2)
    upper, lower = values[rows, inside], values[rows, inside + 1]
    part = np.clip((upper - limit_c) / np.maximum(upper - lower, 1e-9), 0, 1)
    reach = distance[inside] + part * (distance[inside + 1] - distance[inside])
    ends = np.where(colder == 0, 0.0, distance[-1])
    reaches: Floats = np.where((colder > 0) & (colder < len(distance)), reach, ends)
    return reaches


def measure_widths_mm(
    across: Across, problem: Problem, temperature: Floats, limit_c: float | None = None
) -> Floats:
    """Return the width that each column exceeds a temperature on the heated strips, mm.

    Args:
        across: The nodes across the seam.
        problem: The seam.
        temperature: Temperatures °C, shape (columns, nodes).
        limit_c: The temperature, °C; None for the liquidus.
    """
    limit = problem.metal.liquidus_c if limit_c is None else limit_c
    widths = np.zeros(len(temperature))
    for number, strip in enumerate(problem.strips, start=1):
        if strip.heat_share > 0:
            widths += strip.count * measure_reach_mm(across, number, temperature, limit)
    return widths


def measure_length_mm(seam_c: Floats, step_mm: float, liquidus_c: float) -> float:
    """Return the length over which the seam is molten, mm.

    Args:
        seam_c: Temperatures along the seam, °C.
        step_mm: Width of a column, mm.
        liquidus_c: Liquidus, °C.
    """
    melted = np.flatnonzero(seam_c >= liquidus_c)
    if not len(melted):
        return 0.0
    low, high = melted[0], melted[-1]
    length = float(high - low) * step_mm
    for inside, outside in ((low, low - 1), (high, high + 1)):
        if 0 <= outside < len(seam_c):
            hot, cold = seam_c[inside], seam_c[outside]
            length += step_mm * float((hot - liquidus_c) / max(hot - cold, 1e-9))
        else:
            length += step_mm / 2
    return length
