"""The wide columns: the sheet away from the arc, in larger steps."""

from __future__ import annotations

import numpy as np

from ..metal import Floats, Metal
from .cells import Indices, Losses
from .mesh import Mesh

_MAX_STEP_S = 4.0
# Share of the largest stable step along the seam, and of the time in which a bar cools a cell.
_CONDUCTED, _COOLED = 0.4, 0.5


class WideColumns:
    """Enthalpies (columns, nodes), J/mm³, stepped implicitly across the seam.

    A column that is covered by narrow columns holds their mean.
    """

    def __init__(self, mesh: Mesh) -> None:
        """Create the columns of a seam at its start temperature."""
        problem, across, along, self.tacks = mesh.problem, mesh.across, mesh.along, mesh.tacks
        self.metal: Metal = problem.metal
        self.closed, self.along, self.tables = problem.closed, along, mesh.tables
        self.section_mm2 = across.section_mm2
        self.flow = across.flow / across.section_mm2
        first = self.metal.find_enthalpy(problem.start_c)
        self.enthalpy = np.full((along.columns, len(across.section_mm2)), first)
        self.middle_mm: Floats = (np.arange(along.columns) + 0.5) * along.width_mm
        per_face = (across.face_mm / across.section_mm2).max()
        bars_1_s = problem.contact_w_mm2k * per_face / self.metal.c_mean
        conducted = _CONDUCTED * along.width_mm**2 / self.metal.cold_a
        self.max_step_s = float(min(_MAX_STEP_S, conducted, _COOLED / (bars_1_s + 1e-9)))
        self.implicit: dict[float, Floats] = {}

    def step(self, seconds: float, losses: Losses, jet_mm: float | None, covered: Indices) -> None:
        """Step the columns that are not covered.

        Args:
            seconds: The time, s.
            losses: The losses of the faces.
            jet_mm: Where the gas of the cup blows, mm, or None.
            covered: Columns that are stepped as narrow ones, in order along the seam.
        """
        if seconds not in self.implicit:
            nodes = len(self.section_mm2)
            system = np.eye(nodes) - 0.5 * seconds * self.metal.cold_a * self.flow
            self.implicit[seconds] = np.linalg.inv(system)
        theta = self.tables.read(self.tables.theta, self.enthalpy)
        change = (theta @ self.flow) * seconds
        # The face between a column and the next; the last one closes a seam all round.
        flux = (np.roll(theta, -1, axis=0) - theta) * (seconds / self.along.width_mm**2)
        if not self.closed:
            flux[-1] = 0.0
        # The faces of covered columns are counted by the narrow ones.
        flux[covered] = 0.0
        flux[covered - 1] = 0.0
        change += flux
        change -= np.roll(flux, 1, axis=0)
        change = change @ self.implicit[seconds]
        change[covered] = 0.0
        width = self.along.width_mm
        change -= losses.calculate(self.enthalpy, self.middle_mm, width, seconds, jet_mm, covered)
        self.enthalpy += change if self.tacks is None else change * self.tacks.wide_warming

    def add(self, column: int, gained: Floats) -> None:
        """Add heat to a column.

        Args:
            column: Its number.
            gained: The heat by node, J/mm³ of sheet.
        """
        if self.tacks is not None:
            gained = gained * self.tacks.wide_warming[column]
        self.enthalpy[column] += gained

    def count_energy(self) -> float:
        """Return the energy in the sheet, J."""
        held = self.enthalpy if self.tacks is None else self.enthalpy * (1 + self.tacks.wide)
        return float((held @ self.section_mm2).sum()) * self.along.width_mm

    def find_mean_c(self) -> float:
        """Return the temperature of the sheet if its heat were spread evenly, °C."""
        volume = float(self.section_mm2.sum()) * self.along.width_mm * self.along.columns
        return float(self.metal.find_temperature_c(np.array([self.count_energy() / volume]))[0])
