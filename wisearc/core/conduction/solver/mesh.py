"""The cells of a seam: its nodes and columns, the tables of its metal, and its tacks."""

from __future__ import annotations

from msgspec import Struct

from ..grid import Across, Along, build_across, build_along
from ..problem import Problem
from .cells import CellTables
from .tack_metal import TackMetal, lay_tacks


class Mesh(Struct, frozen=True, eq=False):
    """The cells: the seam, nodes across it, columns along it, tables, and tack metal or None."""

    problem: Problem
    across: Across
    along: Along
    tables: CellTables
    tacks: TackMetal | None


def build_mesh(problem: Problem) -> Mesh:
    """Return the cells of a seam.

    Args:
        problem: The seam.
    """
    across, along = build_across(problem), build_along(problem)
    tacks = lay_tacks(problem, across, along)
    return Mesh(problem, across, along, CellTables(problem.metal), tacks)
