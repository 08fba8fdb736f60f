"""Bars behind a seam: their place, their length, the groove for argon, and their cautions."""

from ...catalogue.rows import BackCover
from ...joint.joint import SERVICES, Joint
from ...joint.section import Section
from ...quantities import length
from ...reasons import (
    Alternative,
    Care,
    Caution,
    Estimate,
    Note,
    Reason,
    Sentence,
    WithFix,
)
from ...shop.bench import Bench
from ..arc.need import ARC_LENGTH_MM, CurrentModel
from ..filler_metal.service import is_in_liquid
from ..torch.front_end import outside_mm, stickout_mm
from .purge import Purge

BAR_LENGTH_MM = 100.0
FLAT_BAR_MM, CORNER_BAR_MM, BEHIND_BAR_MM = 5.0, 4.0, 5.0
CLEAR_OF_POOL_MM = 1.0
# A thinner near-face bar has no useful heat capacity.
MIN_BAR_MM = 3.0
USUAL_CUP = 8
ALUMINIUM_MELTS_C = 660.0


def bar_length_mm(bench: Bench, cover: BackCover) -> float:
    """Return the bar length, mm: the longest in stock, or a length that one person can place.

    Args:
        bench: The bench.
        cover: The cover.
    """
    bars = [b for b in bench.shop.bars or () if b.count and b.metal == cover.metal]
    grooved = [b for b in bars if b.grooved]
    return max((b.length_mm for b in grooved or bars), default=BAR_LENGTH_MM)


def bars_mm(joint: Joint, need: CurrentModel) -> tuple[float, float | None]:
    """Return the distance of the bars from the seam, and their maximum thickness, mm.

    The thickness is next to the cup (None: no room). Flat: thinner than stick-out + arc − 1 mm,
    else the slot is the outside diameter of the cup + 2 mm. A corner and an edge have bars on each
    side, a fillet behind.

    Args:
        joint: The joint.
        need: The current model.

    References:
        Estimate.
    """
    clear = need.pool_mm / 2 + CLEAR_OF_POOL_MM
    if joint.kind.has("flat_bars"):
        out = stickout_mm(joint, joint.pins.get("cup", USUAL_CUP))
        thickest = out + ARC_LENGTH_MM - 1
        if thickest >= MIN_BAR_MM:
            return max(FLAT_BAR_MM, clear), thickest
        return outside_mm(joint.pins.get("cup", USUAL_CUP)) / 2 + 1, None
    return max(BEHIND_BAR_MM if joint.kind.has("back_apart") else CORNER_BAR_MM, clear), None


def is_tint_visible(joint: Joint) -> bool:
    """Return whether tint behind matters: it is visible or in contact with liquid.

    Args:
        joint: The joint.
    """
    return joint.finish == "show" or is_in_liquid(joint)


def has_groove(bench: Bench, cover: BackCover) -> bool | None:
    """Return whether a bar in stock has a groove, or None if the stock is unknown or has no bar.

    Args:
        bench: The bench.
        cover: The cover.
    """
    bars = [b for b in bench.shop.bars or () if b.count and b.metal == cover.metal]
    return any(b.grooved for b in bars) if bars else None


def list_bar_alternatives(
    joint: Joint, section: Section, cover: BackCover, purge: Purge | None
) -> tuple[Alternative, ...]:
    """Return the other way with bars: dry, or with argon in their groove.

    Args:
        joint: The joint.
        section: Its section.
        cover: The cover.
        purge: Its purge, or None.
    """
    if not cover.has("bar") or not section.stainless_sides or not is_tint_visible(joint):
        return ()
    if purge is None:
        text = "A little argon in the groove keeps the root bright. Needs grooved bars."
        return (Alternative(Sentence("argon in the groove"), Sentence(text), {"bar_gas": "yes"}),)
    text = "No argon behind. Many welders do this for show. The root can tint straw."
    return (Alternative(Sentence("dry bars"), Sentence(text), {"bar_gas": "no"}, "bar_gas"),)


def check_bars(
    joint: Joint, section: Section, bench: Bench, cover: BackCover, purge: Purge | None
) -> list[Caution]:
    """Return the cautions for dry bars, and for bars without a groove in stock.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        cover: The cover.
        purge: Its purge, or None.
    """
    if not cover.has("bar") or not section.stainless_sides:
        return []
    cautions: list[Caution] = []
    if has_groove(bench, cover) is False and joint.kind.has("under_root"):
        text = (
            "The {name} in stock have no groove. The root lies on the bar, and no argon reaches "
            "it. Use grooved bars."
        )
        if cover.has("smears"):
            text = (
                "The {name} in stock have no groove. Copper can smear into the root and crack it. "
                "Use grooved or plated bars."
            )
        cautions.append(Note("bars-flat", "back", text, name=cover.name))
    if purge is None and is_in_liquid(joint):
        text = (
            "These bars are dry, and this joint is for {service}. The root tints, and tint starts "
            "corrosion. Feed argon into the groove, or remove the tint afterwards."
        )
        item = Care("dry-bars", "back", text, service=SERVICES[joint.service])
        fix = {"bar_gas": "auto"} if joint.bar_gas == "no" else {"back": "purge"}
        how = "Feed argon into the groove" if joint.bar_gas == "no" else "Use a purge"
        cautions.append(WithFix(item, how, **fix))
    return cautions


def explain_near_face(joint: Joint, thickest: float | None) -> list[Reason]:
    """Return the reason for the bars on the near face, on a joint that has them.

    Args:
        joint: The joint.
        thickest: Their maximum thickness, mm, or None without room.
    """
    if not joint.kind.has("flat_bars"):
        return []
    if thickest is None:
        text = (
            "The short stick-out leaves no room for a bar next to the cup. The slot is "
            "as wide as the cup, so the bar chills little."
        )
        return [Estimate("bars-where", text)]
    text = "On the near face use bars up to {t}, or bevelled bars. The cup passes over them."
    return [Estimate("bars-where", text, t=length(thickest))]
