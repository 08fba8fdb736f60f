"""The state of cells: fast tables over their enthalpy, and what their faces lose."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...physics.heat import AMBIENT_C
from ..grid import Across
from ..metal import Floats, Metal
from ..problem import Problem
from ..tint import calculate_oxide_growth

Indices = NDArray[np.intp]
NO_COLUMNS: Indices = np.empty(0, dtype=np.intp)


class CellTables:
    """Tables of a metal at the middle of each entry, to be read without interpolation.

    Flow potential W/mm, temperature °C, loss of one face W/mm², and growth of oxide.
    """

    def __init__(self, metal: Metal) -> None:
        """Create the tables of a metal."""
        self.scale = (len(metal.theta) - 1) / metal.top
        self.theta, self.temperature_c, self.face_loss = (
            (table[1:] + table[:-1]) / 2
            for table in (metal.theta, metal.temperature_c, metal.face_loss)
        )
        self.oxide = calculate_oxide_growth(self.temperature_c)
        # A cold cell loses nothing.
        self.temperature_c[0], self.face_loss[0] = AMBIENT_C, 0.0

    def find_index(self, enthalpy: Floats) -> Indices:
        """Return the entries of enthalpies, J/mm³, of any shape."""
        index: Indices = (enthalpy * self.scale).astype(np.intp)
        return index

    def read(self, table: Floats, enthalpy: Floats) -> Floats:
        """Return a table at enthalpies.

        Args:
            table: One of the tables.
            enthalpy: Enthalpies, J/mm³, of any shape.
        """
        values: Floats = table.take(self.find_index(enthalpy), mode="clip")
        return values


class Losses:
    """What leaves the faces: air, radiation, the jet of gas and bars, with its sums in J."""

    def __init__(self, problem: Problem, across: Across, tables: CellTables) -> None:
        """Create the losses of a seam.

        Args:
            problem: The seam.
            across: The nodes across it.
            tables: The tables of its metal.
        """
        self.problem, self.tables, self.section_mm2 = problem, tables, across.section_mm2
        self.per_face = across.face_mm / across.section_mm2
        self.under_bar = across.barred * self.per_face
        covered = across.distance_mm < problem.cover_mm
        self.under_jet = problem.jet_w_mm2k * self.per_face * covered
        self.has_bars = bool(problem.contact_w_mm2k and self.under_bar.any())
        self.lost_j = self.barred_j = 0.0

    def calculate(
        self,
        enthalpy: Floats,
        column_mm: Floats,
        width_mm: float,
        seconds: float,
        jet_mm: float | None,
        uncounted: Indices = NO_COLUMNS,
    ) -> Floats:
        """Return the loss of cells in a time, J/mm³, and count it.

        Args:
            enthalpy: Enthalpies (columns, nodes), J/mm³.
            column_mm: Middles of the columns, mm.
            width_mm: Width of a column, mm.
            seconds: The time, s.
            jet_mm: Where the gas of the cup blows, mm, or None without gas.
            uncounted: Columns that lose nothing here, because they are counted elsewhere.
        """
        tables, problem = self.tables, self.problem
        index = tables.find_index(enthalpy)
        air = tables.face_loss.take(index, mode="clip")
        loss = air * (2 * self.per_face)
        blown = jet_mm is not None and problem.jet_w_mm2k > 0
        if self.has_bars or blown:
            above = tables.temperature_c.take(index, mode="clip") - AMBIENT_C
        if self.has_bars:
            # Under a bar the air does not reach the back.
            drawn = (problem.contact_w_mm2k * above - air) * self.under_bar
            loss += drawn
            drawn[uncounted] = 0.0
            self.barred_j += float((drawn @ self.section_mm2).sum()) * seconds * width_mm
        if blown:
            rows = abs(column_mm - (jet_mm or 0.0)) < problem.cover_mm
            loss += above * self.under_jet * rows[:, None]
        loss[uncounted] = 0.0
        loss *= seconds
        self.lost_j += float((loss @ self.section_mm2).sum()) * width_mm
        return loss
