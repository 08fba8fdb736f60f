"""The metal of tacks on top of the seam: it warms with the cells below it."""

from __future__ import annotations

import numpy as np

from ..grid import Across, Along
from ..metal import Floats
from ..problem import Problem


class TackMetal:
    """The added metal as a share of the metal below it, for narrow and for wide columns.

    `narrow` has the shape (rows, nodes), and `wide` (columns, nodes). Where a cell carries tack
    metal, the same heat warms it less, by 1 / (1 + share).
    """

    def __init__(self, problem: Problem, across: Across, along: Along) -> None:
        """Lay the tacks of a seam on its cells.

        Args:
            problem: The seam.
            across: The nodes across it.
            along: The columns along it.
        """
        rows = along.columns * along.divided
        starts = np.arange(rows) * along.narrow_mm
        covered = np.zeros(rows)
        extent = rows * along.narrow_mm
        # A tack on the start of a closed seam lies on both of its ends.
        shifts = (-extent, 0.0, extent) if problem.closed else (0.0,)
        for low, high in problem.tacks_mm:
            for shift in shifts:
                first, last = (problem.seam_mm + place + shift for place in (low, high))
                inside = np.minimum(starts + along.narrow_mm, last) - np.maximum(starts, first)
                covered += np.clip(inside / along.narrow_mm, 0.0, 1.0)
        below = (across.distance_mm <= problem.tack_width_mm / 2) & (across.loads > 0)
        share = problem.tack_mm2 / float(across.section_mm2[below].sum()) * below
        self.narrow: Floats = np.minimum(covered, 1.0)[:, None] * share
        self.wide: Floats = self.narrow.reshape(along.columns, along.divided, -1).mean(axis=1)
        self.warming: Floats = 1 / (1 + self.narrow)
        self.wide_warming: Floats = 1 / (1 + self.wide)

    def average(self, enthalpy: Floats, rows: np.ndarray, divided: int) -> Floats:
        """Return the means of narrow columns as wide ones, by their metal.

        Args:
            enthalpy: Enthalpies of the narrow columns (rows, nodes), J/mm³.
            rows: Their numbers along the seam.
            divided: Narrow columns in a wide one.
        """
        metal = 1 + self.narrow[rows]
        shape = (len(rows) // divided, divided, enthalpy.shape[1])
        heat: Floats = (enthalpy * metal).reshape(shape).mean(axis=1)
        means: Floats = heat / metal.reshape(shape).mean(axis=1)
        return means


def lay_tacks(problem: Problem, across: Across, along: Along) -> TackMetal | None:
    """Return the tack metal of a seam, or None without any.

    Args:
        problem: The seam.
        across: The nodes across it.
        along: The columns along it.
    """
    if not problem.tacks_mm or problem.tack_mm2 <= 0:
        return None
    return TackMetal(problem, across, along)
