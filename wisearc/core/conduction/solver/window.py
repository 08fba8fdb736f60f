"""The narrow columns: the sheet around the arc, in small steps. They move with the arc."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..metal import Floats
from .arc_path import ArcPath
from .cells import Indices, Losses
from .columns import WideColumns
from .mesh import Mesh

# Substeps between two records of the peak, and between two counts of the losses.
_PEAK_EVERY, _LOSS_EVERY = 4, 16
# Wide columns that are narrow in front of the arc and behind it. Behind, a column stays narrow
# while it is hotter than this.
_AHEAD, _BEHIND, NARROW_ABOVE_C = 2, 5, 1000.0
# A sheet with fewer wide columns is narrow everywhere.
_MIN_WIDE_COLUMNS = 14
# The Gaussian is cut off at this many spreads.
_CUT = 4.5

# Called with the time, s, whenever the peak is recorded.
Sample = Callable[[float], None]


class _Border:
    """One side of the window: the flow from its wide neighbour, and the sum of its edge.

    Flow potentials φ are θ times step / width², K of enthalpy in a substep.
    """

    def __init__(self, reach: float, phi: Floats | None, nodes: int) -> None:
        self.reach, self.phi = reach, phi
        self.inflow = None if phi is None else reach * phi
        self.edges = np.zeros(nodes)

    def fill(self, ghost: Floats, edge: Floats) -> None:
        """Fill the row beside the window, and count the edge. At a free edge nothing flows.

        Args:
            ghost: The row beside the window, φ by node.
            edge: The last row in it, φ by node.
        """
        if self.inflow is None:
            ghost[:] = edge
            return
        np.multiply(edge, 1 - self.reach, out=ghost)
        ghost += self.inflow
        self.edges += edge

    def calculate_taken(self, substeps: int) -> Floats | None:
        """Return the enthalpy that the window took, as that of one narrow column, J/mm³."""
        if self.phi is None:
            return None
        taken: Floats = self.reach * (self.phi * substeps - self.edges)
        return taken


class Window:
    """Enthalpies of the narrow columns (rows, nodes), J/mm³, and the highest of each.

    `first` and `count` are the wide columns that they cover. `complete` is whether that is the
    complete sheet.
    """

    def __init__(self, mesh: Mesh, step_s: float, start_mm: float) -> None:
        """Create the window around the start of the arc.

        Args:
            mesh: The cells of the seam.
            step_s: The small step, s.
            start_mm: Where the arc starts, mm.
        """
        problem, across, along, tables = mesh.problem, mesh.across, mesh.along, mesh.tables
        self.problem, self.along, self.tables, self.step_s = problem, along, tables, step_s
        self.tacks = mesh.tacks
        width, nodes = along.narrow_mm, len(across.section_mm2)
        self.nodes = nodes
        self.phi_table = tables.theta * (step_s / width**2)
        flow = across.flow / across.section_mm2
        self.matrix = flow * width**2 - 2 * np.eye(nodes)
        self.damping = np.linalg.inv(np.eye(nodes) - 0.5 * step_s * problem.metal.max_a * flow)
        self.loads = across.loads / across.section_mm2
        self.reach = 2 / (1 + along.divided)
        self.complete = along.columns < _MIN_WIDE_COLUMNS
        self.first, self.count = 0, along.columns
        if not self.complete:
            at = int(start_mm / along.width_mm)
            self.first = at - _BEHIND if problem.closed else max(0, at - _BEHIND)
            self.count = at + _AHEAD + 1 - self.first
        self.enthalpy = np.full(
            (self.count * along.divided, nodes), problem.metal.find_enthalpy(problem.start_c)
        )
        self._allocate()

    @property
    def covered(self) -> Indices:
        """Return the wide columns that are narrow, in order along the seam."""
        columns: Indices = np.arange(self.first, self.first + self.count) % self.along.columns
        return columns

    def _allocate(self) -> None:
        """Allocate the buffers of a step, and find the places of the columns."""
        rows = len(self.enthalpy)
        self.scaled, self.change = np.empty_like(self.enthalpy), np.empty_like(self.enthalpy)
        self.index = np.empty(self.enthalpy.shape, dtype=np.intp)
        self.phi = np.empty((rows + 2, self.nodes))
        number = self.first * self.along.divided + np.arange(rows)
        self.middle_mm: Floats = (number + 0.5) * self.along.narrow_mm
        self.rows: Indices = number % (self.along.columns * self.along.divided)
        self.warming = None if self.tacks is None else self.tacks.warming[self.rows]
        self.peak = self.enthalpy.copy()
        self.taken: list[Floats | None] = [None, None]

    def step(
        self,
        substeps: int,
        now_s: float,
        path: ArcPath,
        wide: WideColumns,
        losses: Losses,
        sample: Sample,
    ) -> float:
        """Step the narrow columns beside wide ones, which do not change. `settle` follows.

        Args:
            substeps: Number of small steps.
            now_s: The time before them, s.
            path: The arc, which moves.
            wide: The wide columns.
            losses: The losses of the faces.
            sample: Called when the peak is recorded.

        Returns:
            The energy of the arc, J.
        """
        phi, enthalpy, change = self.phi, self.enthalpy, self.change
        inner, above, below = phi[1:-1], phi[2:], phi[:-2]
        wraps = self.complete and self.problem.closed
        borders = [
            _Border(self.reach, beside, self.nodes) for beside in self._find_neighbours(wide)
        ]
        ghosts = ((borders[0], phi[0], phi[1]), (borders[1], phi[-1], phi[-2]))
        places, energies = path.plan(now_s, self.step_s, substeps)
        rows, weights = self._spread_arc(places, energies)
        lost_until = 0
        for n in range(substeps):
            np.multiply(enthalpy, self.tables.scale, out=self.scaled)
            np.copyto(self.index, self.scaled, casting="unsafe")
            self.phi_table.take(self.index, mode="clip", out=inner)
            if wraps:
                phi[0], phi[-1] = phi[-2], phi[1]
            else:
                for border, ghost, edge in ghosts:
                    border.fill(ghost, edge)
            np.matmul(inner, self.matrix, out=change)
            change += above
            change += below
            if energies[n]:
                change[rows] += weights[n] * self.loads
            np.matmul(change, self.damping, out=self.scaled)
            if self.warming is not None:
                self.scaled *= self.warming
            enthalpy += self.scaled
            ends = n == substeps - 1
            time_s = now_s + (n + 1) * self.step_s
            if n % _LOSS_EVERY == _LOSS_EVERY - 1 or ends:
                path.arc_mm = float(places[n])
                seconds = (n + 1 - lost_until) * self.step_s
                lost_until = n + 1
                lost = losses.calculate(
                    enthalpy,
                    self.middle_mm,
                    self.along.narrow_mm,
                    seconds,
                    path.find_jet_mm(now_s),
                )
                enthalpy -= lost if self.warming is None else lost * self.warming
            if n % _PEAK_EVERY == _PEAK_EVERY - 1 or ends:
                np.maximum(self.peak, enthalpy, out=self.peak)
                sample(time_s)
        self.taken = [border.calculate_taken(substeps) for border in borders]
        return float(energies.sum())

    def settle(self, wide: WideColumns) -> None:
        """Subtract what the narrow columns took in the last step, and write their means.

        The wide columns have made the same step before, so that both use their state before it.

        Args:
            wide: The wide columns.
        """
        for column, taken in zip(
            (self.first - 1, self.first + self.count), self.taken, strict=True
        ):
            if taken is not None:
                wide.add(column % self.along.columns, -taken / self.along.divided)
        wide.enthalpy[self.covered] = self.average()

    def _find_neighbours(self, wide: WideColumns) -> tuple[Floats | None, Floats | None]:
        """Return φ of the wide columns beside the window, None at an edge of the sheet."""

        def find_phi(column: int) -> Floats | None:
            columns = self.along.columns
            if self.complete or not (self.problem.closed or 0 <= column < columns):
                return None
            return self.tables.read(self.phi_table, wide.enthalpy[column % columns])

        return find_phi(self.first - 1), find_phi(self.first + self.count)

    def _spread_arc(self, places: Floats, energies: Floats) -> tuple[slice, Floats]:
        """Return the rows that the arc heats, and their heat in J/mm (substeps, rows, 1)."""
        spread, width = self.problem.arc.spread_mm, self.along.narrow_mm
        first = self.middle_mm[0] - width / 2
        if self.problem.closed and self.complete:
            # Once round: the arc is back at the first column.
            places = first + (places - first) % (width * len(self.middle_mm))
        half = _CUT * spread
        low = max(0, int((places.min() - half - first) / width))
        high = min(len(self.middle_mm), int((places.max() + half - first) / width) + 2)
        away = self.middle_mm[low:high] - places[:, None]
        weights = np.exp(-(away**2) / (2 * spread**2))
        weights *= (energies / (weights.sum(axis=1) * width))[:, None]
        return slice(low, high), weights[:, :, None]

    def average(self) -> Floats:
        """Return the means of the covered wide columns (count, nodes), J/mm³."""
        if self.tacks is not None:
            return self.tacks.average(self.enthalpy, self.rows, self.along.divided)
        shape = (self.count, self.along.divided, self.nodes)
        means: Floats = self.enthalpy.reshape(shape).mean(axis=1)
        return means

    def find_move(self, arc_mm: float) -> tuple[int, int]:
        """Return how many wide columns to drop behind the arc and to add ahead of it.

        Args:
            arc_mm: Place of the arc, mm.
        """
        if self.complete:
            return 0, 0
        at = int(arc_mm / self.along.width_mm)
        columns, divided = self.along.columns, self.along.divided
        ahead = at + _AHEAD if self.problem.closed else min(at + _AHEAD, columns - 1)
        hot = self.problem.metal.find_enthalpy(NARROW_ABOVE_C)
        drop = 0
        while (
            self.first + drop < at - _BEHIND
            and self.enthalpy[drop * divided : (drop + 1) * divided].max() < hot
        ):
            drop += 1
        missing = ahead - (self.first + self.count - 1)
        return drop, min(max(0, missing), columns - 1 - (self.count - drop))

    def move(self, drop: int, grow: int, wide: WideColumns) -> None:
        """Drop wide columns behind the arc and add others ahead of it.

        Args:
            drop: How many to drop.
            grow: How many to add.
            wide: The wide columns.
        """
        fresh = [self._refine(self.first + self.count + i, wide) for i in range(grow)]
        kept = self.enthalpy[drop * self.along.divided :]
        self.first, self.count = self.first + drop, self.count - drop + grow
        self.enthalpy = np.concatenate([kept, *fresh])
        self._allocate()

    def _refine(self, column: int, wide: WideColumns) -> Floats:
        """Return a wide column as narrow ones. A slope inside it changes no peak by 0.2 K."""
        inside = column % self.along.columns
        refined: Floats = np.repeat(wide.enthalpy[inside][None], self.along.divided, axis=0)
        return refined
