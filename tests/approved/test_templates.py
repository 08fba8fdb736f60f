"""Template layouts in both unit systems."""

from __future__ import annotations

from typing import Any

from wisearc.core.errors import InputError
from wisearc.core.templates.cut import (
    KINDS,
    calculate_curve,
    calculate_hole,
    edge_mm,
    ends_mm,
    has_knife_edge,
    height_mm,
    make_cut,
    paper_r_mm,
    seam_mm,
)
from wisearc.core.templates.template import Flat, lay_flat

from .approval import ApprovedCase


class Templates(ApprovedCase):
    """A case is a cut."""

    name = "templates"

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Calculate points of the cut and the layout of its sheet."""
        try:
            cut = make_cut(case)
        except InputError as problem:
            return str(problem)
        parts = ["branch", *(["hole"] if KINDS[cut.kind].hole else [])]
        return {
            "curve": calculate_curve(cut, 12),
            "hole": calculate_hole(cut, 12) if len(parts) > 1 else (),
            "ends": [*ends_mm(cut), seam_mm(cut), paper_r_mm(cut), has_knife_edge(cut)],
            "edge": [edge_mm(cut, 0.7), height_mm(cut, cut.outer_r, 2.1)],
            "flat": [
                _shorten(lay_flat(cut, part, habit)) for part in parts for habit in ("mm", "in")
            ],
        }

    def test_templates_are_as_approved(self) -> None:
        """Changes in a layout are detected."""
        self.check()


def _shorten(laid: Flat) -> Any:
    """Remove all but about six points of each line."""
    return {
        "title": laid.title,
        "strokes": [(s.layer, s.points[:: len(s.points) // 6 or 1]) for s in laid.strokes],
        "dashed": [s.dashed for s in laid.strokes],
        "labels": [(one.at, one.size_mm, one.anchor, one.layer) for one in laid.labels],
        "box": laid.box,
        "ruler": [laid.ruler_mm, laid.ruler_at],
        "marks": laid.marks,
    }
