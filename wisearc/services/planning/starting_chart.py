"""The starting chart: a plan for each thickness and sheet joint, with the equipment of the shop."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from ...core import catalogue
from ...core.errors import InputError
from ...core.joint.data import make_joint
from ...core.joint.joint import Joint
from ...core.plan.approaches import BY_KEY, get_preference_keys
from ...core.plan.plan import Plan
from ...core.quantities import MM_PER_INCH, UNIT_SYSTEMS
from ...core.schema import checks
from ...core.schema.json_types import Json
from ...core.shop.shop import Shop
from ...core.typed_quantities import scale_for
from .planner import cached_plan

# The sheet sizes of a chart, mm, and its gauge numbers: common practice.
SIZES_MM = (0.8, 1.0, 1.2, 1.5, 2.0, 2.5, 3.0)
GAUGES = (24, 22, 20, 18, 16, 14, 12)
SHEET = "sheet"
# The length of the seams, by unit system.
LENGTHS = {"mm": "300 mm", "in": "12 in"}
# The approaches without those of a shop.
USUAL: Mapping[str, str] = {key: question.default for key, question in BY_KEY.items()}
# Gauge scales of sheet. The scale of the metal is the usual one.
SHEET_SCALES = ("stainless", "carbon")


class ChartCell(Struct, frozen=True):
    """A joint of the chart with its plan, or the sentence of the joint that cannot be planned."""

    joint: Joint | None
    plan: Plan | None
    error: str = ""


class ChartRow(Struct, frozen=True):
    """A thickness of the chart: mm, its gauge number or None, and a cell for each joint."""

    thickness_mm: float
    gauge: int | None
    cells: tuple[ChartCell, ...]


class StartingChart(Struct, frozen=True):
    """The chart of a metal.

    Attributes:
        metal: Key of the metal.
        units: Unit system.
        scale: Gauge scale of the rows, or "" for sizes in mm.
        joints: Keys of the joints.
        rows: The rows, thin first.
    """

    metal: str
    units: str
    scale: str
    joints: tuple[str, ...]
    rows: tuple[ChartRow, ...]


def list_chart_joints() -> tuple[str, ...]:
    """Return the joints of two sheets."""
    return tuple(
        key
        for key, kind in catalogue.load_joint_kinds().items()
        if kind.forms == SHEET and not kind.has("stud")
    )


def build_chart(
    metal: str, units: str, scale: str, shop: Shop, approaches: Mapping[str, str]
) -> StartingChart:
    """Build the chart of a metal.

    Args:
        metal: Key of the metal.
        units: Unit system. Inches have rows by gauge.
        scale: Gauge scale of inch rows, or "" for that of the metal.
        shop: The shop.
        approaches: The approach for each question on which practitioners disagree.

    Raises:
        UnknownName: The metal, the unit system or the scale does not exist.
    """
    checks.name("metal", metal, catalogue.load_metals())
    checks.name("units", units, UNIT_SYSTEMS)
    if scale:
        checks.name("gauge", scale, SHEET_SCALES)
    by = scale or scale_for(catalogue.load_metals()[metal].kind, SHEET)
    inches = catalogue.load_gauge_scales()[by].inches
    if units == "mm" and not scale:
        sizes: list[tuple[float, int | None, str]] = [(mm, None, f"{mm:g} mm") for mm in SIZES_MM]
        by = ""
    else:
        sizes = [(inches[str(ga)] * MM_PER_INCH, ga, f"{ga} ga {by}") for ga in GAUGES]
    joints, length = list_chart_joints(), LENGTHS[units]
    preferences = get_preference_keys(dict(approaches))
    rows = tuple(
        ChartRow(
            mm,
            ga,
            tuple(_plan_cell(metal, key, text, length, preferences, shop) for key in joints),
        )
        for mm, ga, text in sizes
    )
    return StartingChart(metal, units, by, joints, rows)


def _plan_cell(
    metal: str,
    kind: str,
    thickness: str,
    length: str,
    preferences: dict[str, Json],
    shop: Shop,
) -> ChartCell:
    sheet: dict[str, Json] = {"metal": metal, "form": SHEET, "thickness": thickness}
    try:
        joint = make_joint(
            {"joint": kind, "members": [sheet, sheet], "length": length, **preferences}
        )
        return ChartCell(joint, cached_plan(joint, shop))
    except InputError as error:
        return ChartCell(None, None, error.sentence)
