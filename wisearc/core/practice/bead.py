"""The bead on the sheet: the melted width, tints of both faces, and metal of the rod."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..conduction.metal import Floats
from ..conduction.tint import find_tint, find_tint_temperature_c
from .sheet import STEP_S, Sheet

# Where tint is counted: between steps of the losses.
_OXIDE_FROM_C = 200.0


class Bead:
    """The bead along the columns of a sheet.

    `left_mm` and `right_mm` are the edges of the melted metal as signed distances from the seam,
    NaN without melted metal. `deposit_mm2` is the metal of the rod. `front` and `back` (columns,
    order) are the growth of oxide, s at 600 °C. `pool_mm` is the widest pool of each column at one
    moment: a torch that weaves leaves a wide bead of a narrow pool.
    """

    def __init__(self, sheet: Sheet) -> None:
        """Create the bead of a sheet without one."""
        self.sheet = sheet
        columns = len(sheet.middle_mm)
        self.left_mm: Floats = np.full(columns, np.nan)
        self.right_mm: Floats = np.full(columns, np.nan)
        self.seam_molten = np.zeros(columns, dtype=bool)
        self.deposit_mm2: Floats = np.zeros(columns)
        self.pool_mm: Floats = np.zeros(columns)
        shape = (columns, len(sheet.order))
        self.front: Floats = np.zeros(shape)
        self.back: Floats = np.zeros(shape)
        self._seam = int(np.searchsorted(sheet.across_mm, 0.0))
        self._molten = sheet.problem.metal.find_enthalpy(sheet.problem.metal.liquidus_c)
        self._hot = sheet.problem.metal.find_enthalpy(_OXIDE_FROM_C)
        self.width_mm = self.length_mm = 0.0
        # The columns of the pool, and its edges there.
        self.pool_rows = slice(0, 0)
        self.pool_edges: tuple[Floats, Floats] = (np.empty(0), np.empty(0))

    def record_pool(self) -> None:
        """Measure the pool, and record its edges in each column."""
        sheet = self.sheet
        hottest = sheet.enthalpy.max(axis=1)
        molten = np.flatnonzero(hottest >= self._molten)
        if not len(molten):
            self.width_mm = self.length_mm = 0.0
            self.pool_rows, self.pool_edges = slice(0, 0), (np.empty(0), np.empty(0))
            return
        rows = slice(int(molten[0]), int(molten[-1]) + 1)
        # One more column on each side, for the parts of columns at its ends.
        low = max(0, rows.start - 1)
        around = sheet.read_c(slice(low, min(len(hottest), rows.stop + 1)))
        temperature = around[rows.start - low : rows.stop - low]
        left, right = self._find_edges(temperature)
        self.left_mm[rows] = np.fmin(self.left_mm[rows], left)
        self.right_mm[rows] = np.fmax(self.right_mm[rows], right)
        liquidus = sheet.problem.metal.liquidus_c
        self.seam_molten[rows] |= temperature[:, self._seam] >= liquidus
        widths = right - left
        widths[np.isnan(widths)] = 0.0
        self.pool_mm[rows] = np.maximum(self.pool_mm[rows], widths)
        self.width_mm = float(widths.max())
        self.length_mm = self._measure_length_mm(around.max(axis=1), rows.start - low, len(left))
        self.pool_rows, self.pool_edges = rows, (left, right)

    def _find_edges(self, temperature: Floats) -> tuple[Floats, Floats]:
        """Return the edges of the melted metal in some columns, mm, NaN without molten metal."""
        liquidus, across = self.sheet.problem.metal.liquidus_c, self.sheet.across_mm
        molten = temperature >= liquidus
        count = len(across)
        first = molten.argmax(axis=1)
        last = count - 1 - molten[:, ::-1].argmax(axis=1)
        nothing = ~molten.any(axis=1)
        left = self._interpolate_edge(temperature, first, first - 1)
        right = self._interpolate_edge(temperature, last, last + 1)
        left[nothing], right[nothing] = np.nan, np.nan
        return left, right

    def _interpolate_edge(
        self, temperature: Floats, inside: NDArray[np.intp], outside: NDArray[np.intp]
    ) -> Floats:
        """Return where each column falls below the liquidus between two nodes, mm."""
        across, liquidus = self.sheet.across_mm, self.sheet.problem.metal.liquidus_c
        rows = np.arange(len(temperature))
        at = np.minimum(np.maximum(outside, 0), len(across) - 1)
        hot, cold = temperature[rows, inside], temperature[rows, at]
        part = (hot - liquidus) / np.maximum(hot - cold, 1e-9)
        edge: Floats = across[inside] + np.minimum(np.maximum(part, 0.0), 1.0) * (
            across[at] - across[inside]
        )
        return edge

    def _measure_length_mm(self, hottest: Floats, first: int, count: int) -> float:
        """Return the length of the pool along the seam, mm, with parts of columns at its ends.

        `hottest` are the highest temperatures of columns, of which `count` from `first` are molten.
        """
        width, liquidus = self.sheet.width_mm, self.sheet.problem.metal.liquidus_c
        last = first + count - 1
        length = (count - 1) * width
        for inside, outside in ((first, first - 1), (last, last + 1)):
            if 0 <= outside < len(hottest):
                hot, cold = float(hottest[inside]), float(hottest[outside])
                length += width * min(1.0, (hot - liquidus) / max(hot - cold, 1e-9))
            else:
                length += width / 2
        return length

    def add_rod(self, x_mm: float, metal_mm3: float) -> None:
        """Add the metal of a dab over the length of the pool.

        Args:
            x_mm: Where the dab was, mm.
            metal_mm3: Its metal, mm³.
        """
        half = max(self.length_mm, 2.0) / 2
        middles = self.sheet.middle_mm
        weights = np.clip(1 - np.abs(middles - x_mm) / half, 0, None)
        total = weights.sum() * self.sheet.width_mm
        if total > 0:
            self.deposit_mm2 += weights * (metal_mm3 / total)

    def grow_tint(self, steps: int, torch_mm: tuple[float, float] | None) -> None:
        """Let oxide grow for some steps: on the front only where the gas does not reach.

        Args:
            steps: The number of steps.
            torch_mm: Place of the torch whose gas flows (along, across), or None without gas.
        """
        sheet = self.sheet
        hot = np.flatnonzero(sheet.enthalpy.max(axis=1) > self._hot)
        if not len(hot):
            return
        rows = slice(int(hot[0]), int(hot[-1]) + 1)
        growth = sheet.tables.read(sheet.tables.oxide, sheet.enthalpy[rows][:, sheet.order])
        grown = growth * (steps * STEP_S)
        self.back[rows] += grown
        if torch_mm is not None:
            away = (sheet.middle_mm[rows, None] - torch_mm[0]) ** 2
            away = away + (sheet.across_mm - torch_mm[1]) ** 2
            grown = np.where(away > sheet.problem.cover_mm**2, grown, 0.0)
        self.front[rows] += grown

    def list_widths_mm(self) -> Floats:
        """Return the melted width of each column, mm, 0 without melted metal."""
        return np.nan_to_num(self.right_mm - self.left_mm)

    def list_tints(self, front: bool) -> list[str]:
        """Return the darkest tint of each column.

        Args:
            front: Whether of the face; else of the root.
        """
        if not front and self.sheet.problem.back_covered:
            return ["silver"] * len(self.sheet.middle_mm)
        grown = self.front if front else self.back
        return [find_tint(float(c)) for c in find_tint_temperature_c(grown.max(axis=1))]
