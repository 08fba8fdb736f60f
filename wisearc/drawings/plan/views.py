"""The drawings of a plan by name, in display order."""

from __future__ import annotations

from collections.abc import Callable

from ...core.errors import UnknownName
from ...core.plan.plan import Plan
from ..canvas import Drawing
from ..templates.cut import cut_through
from .heat_across import draw_heat_across
from .over_time import draw_over_time
from .seam import draw_seam_from_above
from .weld_metal import draw_weld_metal

Draw = Callable[[Plan, str, str], Drawing]
VIEWS: dict[str, tuple[str, Draw]] = {
    "cut": ("Cross-section", cut_through),
    "seam": ("Seam", draw_seam_from_above),
    "time": ("Timeline", draw_over_time),
    "metal": ("Weld metal", draw_weld_metal),
    "heat": ("Heat", draw_heat_across),
}


def draw(view: str, plan: Plan, units: str = "mm", palette: str = "screen") -> Drawing:
    """Draw one view of a plan.

    Args:
        view: Its name.
        plan: The plan.
        units: Unit system.
        palette: Colours.

    Raises:
        UnknownName: The view does not exist.
    """
    if view not in VIEWS:
        raise UnknownName("view", view, list(VIEWS))
    return VIEWS[view][1](plan, units, palette)
