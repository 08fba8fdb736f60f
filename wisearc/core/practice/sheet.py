"""The sheet under a torch: the strip field with an arc that may be anywhere, in steps of 25 ms.

Like the field of a plan, a step is explicit along the seam and implicit across it. Here every
column is equal, because nobody knows where the torch goes next.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace

from ..conduction.grid import Across, build_across
from ..conduction.metal import Floats
from ..conduction.problem import Problem, Strip
from ..conduction.solver.cells import CellTables, Indices, Losses

STEP_S = 0.025
# The number of steps between two counts of the losses of the faces.
LOSS_EVERY = 4
# Share of the largest stable step along the seam.
_SAFETY = 0.9
# The Gaussian of the arc and of a dab is cut off at this many spreads.
_CUT = 4.5
_ERF_TO, _ERF_POINTS = 6.0, 1201
_ERF_AT = np.linspace(-_ERF_TO, _ERF_TO, _ERF_POINTS)
_ERF = np.array([math.erf(value) for value in _ERF_AT])


class Sheet:
    """The heat in a coupon: enthalpies (columns, nodes), J/mm³.

    `middle_mm` are the middles of the columns from the start of the seam. `order` are the nodes of
    the heated sides from the second member to the first, and `across_mm` their signed places.
    """

    def __init__(self, problem: Problem) -> None:
        """Create a cold coupon.

        Args:
            problem: The seam. It does not close on itself.
        """
        self.problem = problem = replace(problem, strips=divide_strips(problem.strips))
        self.across: Across = build_across(problem)
        self.tables = CellTables(problem.metal)
        self.losses = Losses(problem, self.across, self.tables)
        extent = problem.before_mm + problem.length_mm + problem.after_mm
        columns = max(1, round(extent / problem.grid_mm))
        self.width_mm = extent / columns
        self.middle_mm: Floats = (np.arange(columns) + 0.5) * self.width_mm - problem.before_mm
        nodes = len(self.across.section_mm2)
        first = problem.metal.find_enthalpy(problem.start_c)
        self.enthalpy: Floats = np.full((columns, nodes), first)
        self.first = first
        self._prepare_steps(nodes)
        self._place_nodes()
        self._loads_at, self._loads = math.nan, np.empty(0)
        self.input_j = self.dabbed_j = 0.0

    def _prepare_steps(self, nodes: int) -> None:
        """Calculate the matrices of a step, which is divided where it would be unstable."""
        metal, width = self.problem.metal, self.width_mm
        stable = _SAFETY * width**2 / (2 * metal.max_a)
        self.substeps = max(1, math.ceil(STEP_S / stable))
        seconds = STEP_S / self.substeps
        flow = self.across.flow / self.across.section_mm2
        self._phi_table = self.tables.theta * (seconds / width**2)
        self._matrix = flow * width**2 - 2 * np.eye(nodes)
        self._damping = np.linalg.inv(np.eye(nodes) - 0.5 * seconds * metal.max_a * flow)
        shape = self.enthalpy.shape
        self._scaled, self._change = np.empty(shape), np.empty(shape)
        self._index = np.empty(shape, dtype=np.intp)
        self._phi = np.empty((shape[0] + 2, nodes))

    def _place_nodes(self) -> None:
        """Find where each node lies on the heated sides, and its cell as signed distances."""
        strips, distance = self.problem.strips, self.across.distance_mm
        sides = np.array([0] + [strip.side for strip in strips])[self.across.strip]
        shares = np.array([0.0] + [strip.heat_share for strip in strips])[self.across.strip]
        heated: Indices = np.flatnonzero(shares > 0)
        signed = distance * sides
        self.order: Indices = np.concatenate(
            [heated[signed[heated] < 0][::-1], [0], heated[signed[heated] > 0]]
        )
        self.across_mm: Floats = signed[self.order]
        middles = (self.across_mm[1:] + self.across_mm[:-1]) / 2
        low = np.concatenate([[self.across_mm[0]], middles])
        high = np.concatenate([middles, [self.across_mm[-1]]])
        # The cell on the seam lies on both sides, which may take unequal shares.
        share = {strip.side: 2 * strip.heat_share for strip in strips if strip.heat_share > 0}
        weights = np.where(self.across_mm < 0, share.get(-1, 1.0), share.get(1, 1.0))
        self._cells = low, high, weights, (share.get(-1, 1.0), share.get(1, 1.0))

    def spread(self, y_mm: float, spread_mm: float) -> Floats:
        """Return the shares of a Gaussian source in the cells across the seam (nodes); sum 1.

        Args:
            y_mm: Its place across the seam, mm.
            spread_mm: Its spread, mm.
        """
        low, high, weights, (left, right) = self._cells
        scale = spread_mm * math.sqrt(2)
        seam = int(np.searchsorted(self.across_mm, 0.0))
        # The integral of the Gaussian up to each end of a cell.
        from_low = np.interp((low - y_mm) / scale, _ERF_AT, _ERF)
        from_high = np.interp((high - y_mm) / scale, _ERF_AT, _ERF)
        middle = float(np.interp(-y_mm / scale, _ERF_AT, _ERF))
        shares = (from_high - from_low) * weights
        shares[seam] = left * (middle - from_low[seam]) + right * (from_high[seam] - middle)
        loads = np.zeros(self.enthalpy.shape[1])
        loads[self.order] = shares / max(shares.sum(), 1e-12)
        return loads

    def step(
        self,
        x_mm: float,
        y_mm: float,
        energy_j: float,
        dab_j: float = 0.0,
    ) -> None:
        """Step the sheet by `STEP_S`. The losses follow by `lose`.

        Args:
            x_mm: Place of the arc along the seam, mm.
            y_mm: Place of the arc across the seam, mm.
            energy_j: Energy of the arc in the step, J.
            dab_j: Heat that the rod of a dab takes, J.
        """
        enthalpy, change, phi = self.enthalpy, self._change, self._phi
        inner, above, below = phi[1:-1], phi[2:], phi[:-2]
        source = self._find_source(x_mm, y_mm, energy_j - dab_j) if energy_j or dab_j else None
        for _ in range(self.substeps):
            np.multiply(enthalpy, self.tables.scale, out=self._scaled)
            np.copyto(self._index, self._scaled, casting="unsafe")
            self._phi_table.take(self._index, mode="clip", out=inner)
            phi[0], phi[-1] = phi[1], phi[-2]
            np.matmul(inner, self._matrix, out=change)
            change += above
            change += below
            if source is not None:
                rows, heat = source
                change[rows] += heat
            np.matmul(change, self._damping, out=self._scaled)
            enthalpy += self._scaled
        self.input_j += energy_j
        self.dabbed_j += dab_j

    def _find_source(self, x_mm: float, y_mm: float, energy_j: float) -> tuple[slice, Floats]:
        """Return the columns that a source heats, and their heat in a substep, J/mm³."""
        spread, width = self.problem.arc.spread_mm, self.width_mm
        first = self.middle_mm[0] - width / 2
        half = _CUT * spread
        columns = len(self.middle_mm)
        low = min(columns - 1, max(0, int((x_mm - half - first) / width)))
        high = max(low + 1, min(columns, int((x_mm + half - first) / width) + 2))
        away = self.middle_mm[low:high] - x_mm
        weights = np.exp(away * away * (-0.5 / spread**2))
        total = float(weights.sum()) * width
        if total < 1e-9:
            # The arc burns beside the coupon, and heats nothing of it.
            self.input_j -= energy_j
            return slice(low, high), np.zeros((high - low, 1))
        weights *= energy_j / (total * self.substeps)
        if self._loads_at != y_mm:
            # A steady torch stays at one distance from the seam.
            self._loads = self.spread(y_mm, spread) / self.across.section_mm2
            self._loads_at = y_mm
        return slice(low, high), weights[:, None] * self._loads

    def lose(self, seconds: float, jet_mm: float | None) -> None:
        """Let the faces lose heat for a time.

        Args:
            seconds: The time, s.
            jet_mm: Where the gas of the cup blows along the seam, mm, or None without gas.
        """
        self.enthalpy -= self.losses.calculate(
            self.enthalpy, self.middle_mm, self.width_mm, seconds, jet_mm
        )

    def read_c(self, rows: slice) -> Floats:
        """Return temperatures of the heated sides in some columns (rows, order), °C.

        Args:
            rows: The columns.
        """
        values = self.tables.read(self.tables.temperature_c, self.enthalpy[rows])
        picked: Floats = values[:, self.order]
        return picked

    def count_stored_j(self) -> float:
        """Return the heat in the coupon above its start, J."""
        rise = (self.enthalpy - self.first) @ self.across.section_mm2
        return float(rise.sum()) * self.width_mm

    @property
    def balance(self) -> float:
        """Return energy that appeared (positive) or vanished, as a share of the input."""
        lost = self.losses.lost_j + self.dabbed_j
        return (self.count_stored_j() + lost - self.input_j) / max(self.input_j, 1e-9)


def divide_strips(strips: Sequence[Strip]) -> tuple[Strip, ...]:
    """Return strips with equal sides apart, so that an arc may burn on one of them.

    Args:
        strips: The strips. Two equal sides count as one strip.
    """
    divided: list[Strip] = []
    for strip in strips:
        if strip.side == 0 and strip.count == 2:
            half = strip.heat_share / 2
            divided += [replace(strip, count=1, side=side, heat_share=half) for side in (1, -1)]
        else:
            divided.append(strip)
    return tuple(divided)
