"""Rod diameter and quantity.

Two approaches: rod thinner than the sheet, rod equal to the sheet.
"""

from __future__ import annotations

import math

from msgspec import Struct

from ...catalogue import load_rod_sizes
from ...catalogue.rows import Rod
from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.fillet import feed_mm_min
from ...quantities import length, size, stock
from ...reasons import (
    Alternative,
    Care,
    Caution,
    Estimate,
    Practice,
    Reason,
    Sentence,
    Stop,
    Substitution,
    WithFix,
    WithFormula,
)
from ...shop.bench import Bench
from ..arc.need import build_current_model, in_line_pool_mm
from .feeding import THROAT_SHARE, Feed

STUBS_AND_TACKS = 1.15
THIN_MM = 0.8
ROD_FROM_MM = 0.9
MAX_SHEET_SHARE = 1.3
STOUT_ROD_MM = 1.6
MORE_THAN_USUAL = 1.02
# The feed that a welder keeps even, and the fastest that a hand can feed, mm/min: common practice.
EASY_FEED_MM_MIN, MAX_FEED_MM_MIN = 400.0, 600.0


class RodSize(Struct, frozen=True):
    """Rod diameter mm (None without filler), feed length mm, rods, deposit section mm²."""

    diameter_mm: float | None
    feed_mm: float
    rods: int
    deposit_mm2: float
    why: tuple[Reason, ...] = ()
    others: tuple[Alternative, ...] = ()
    cautions: tuple[Caution, ...] = ()
    swaps: tuple[Substitution, ...] = ()


def choose_rod_size(
    joint: Joint, section: Section, bench: Bench, rod: Rod | None, feed: Feed
) -> RodSize:
    """Choose diameter and quantity of the rod.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        rod: The rod, or None.
        feed: The feed.

    References:
        Approaches and stock: common practice. Deposit section: estimate.
    """
    if rod is None:
        return RodSize(None, 0.0, 0, 0.0)
    thin, small = section.thin_mm, joint.position.small_pool
    approach = "under-sheet" if small else joint.rod_school
    speed = planned_travel_mm_s(joint, section, bench, rod, feed)
    wanted = wanted_size_mm(joint, section, feed, speed)
    is_manual = "rod_diameter_mm" in joint.pins
    diameter = joint.pins.get(
        "rod_diameter_mm", owned_size_mm(bench, rod.key, section, feed, wanted, speed)[0] or wanted
    )
    area, by_length = feed.deposit_mm2, calculate_feed_by_length(feed, diameter)
    fed = by_length * section.length_mm
    return RodSize(
        diameter,
        fed,
        count_rods(bench, rod.key, section, feed, diameter),
        area,
        swaps=() if is_manual or diameter == wanted else _list_substitutions(rod, wanted, diameter),
        why=(
            _explain_size(approach, thin, wanted, diameter, is_manual),
            *_explain_sold(diameter),
            _explain_rate(feed, speed, diameter, RULES[approach](thin)),
            *_explain_position(joint),
            _explain_feed(feed, fed, by_length, in_line_pool_mm(joint, section, bare=False)),
        ),
        others=() if small else _list_other_approach(joint.rod_school, thin, diameter),
        cautions=_check_diameter(thin, diameter) if is_manual else (),
    )


def planned_travel_mm_s(
    joint: Joint, section: Section, bench: Bench, rod: Rod, feed: Feed
) -> float:
    """Return the travel speed of a feed without a pulse, mm/s.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        rod: The rod.
        feed: The feed.
    """
    if joint.travel_mm_s is not None:
        return joint.travel_mm_s
    return build_current_model(joint, section, bench, rod.key, feed.leg_mm).speed_mm_s


def wanted_size_mm(joint: Joint, section: Section, feed: Feed, travel_mm_s: float) -> float:
    """Return the preferred diameter, mm.

    It is the size of the approach, or the next stocked one that the sheet can melt where that size
    needs more feed than a hand keeps even.

    Args:
        joint: The joint.
        section: Its section.
        feed: The feed.
        travel_mm_s: Travel speed, mm/s.

    References:
        Common practice.
    """
    thin = section.thin_mm
    approach = "under-sheet" if joint.position.small_pool else joint.rod_school
    usual = RULES[approach](thin)
    sizes = (
        usual,
        *(d for d in list_sold_mm() if d > usual and can_melt_rod(thin, d, usual)),
    )
    return next(
        (
            d
            for d in sizes
            if feed_mm_min(feed.deposit_mm2, travel_mm_s, d) <= EASY_FEED_MM_MIN + 1e-6
        ),
        sizes[-1],
    )


def list_sold_mm() -> list[float]:
    """Return the diameters of wire and rod as sold, mm, in order."""
    sizes = load_rod_sizes()
    return sorted({*sizes.spool_mm, *sizes.stocked_mm})


def owned_size_mm(
    bench: Bench, rod: str, section: Section, feed: Feed, wanted: float, travel_mm_s: float
) -> tuple[float | None, bool]:
    """Return the best diameter in stock, mm, and whether the stock is sufficient.

    The sheet must melt it as well as the preferred one, and a hand must be able to feed it.
    Sufficient ones come first, then the nearest. None: none in stock.

    Args:
        bench: The bench.
        rod: The rod.
        section: The section.
        feed: The feed.
        wanted: The preferred diameter, mm.
        travel_mm_s: Travel speed, mm/s.
    """
    fastest = max(MAX_FEED_MM_MIN, feed_mm_min(feed.deposit_mm2, travel_mm_s, wanted))
    matching_rods = [
        rod_stock
        for rod_stock in bench.shop.rod_stock.get(rod, ())
        if can_melt_rod(section.thin_mm, rod_stock.diameter_mm, wanted)
        and feed_mm_min(feed.deposit_mm2, travel_mm_s, rod_stock.diameter_mm) <= fastest
    ]
    sizes = {rod_stock.diameter_mm for rod_stock in matching_rods}
    have = {
        d: sum(rod_stock.count for rod_stock in matching_rods if rod_stock.diameter_mm == d)
        for d in sizes
    }
    lasts = {d: have[d] >= count_rods(bench, rod, section, feed, d) for d in sizes}
    nearest_mm = min(
        sizes, key=lambda d: (not lasts[d], abs(math.log(d / wanted)), d), default=None
    )
    return nearest_mm, nearest_mm is not None and lasts[nearest_mm]


def calculate_feed_by_length(feed: Feed, diameter: float) -> float:
    """Return the rod length for each length of seam, including stubs and tacks.

    Args:
        feed: The feed.
        diameter: Diameter, mm.
    """
    return feed.deposit_mm2 / (math.pi * diameter**2 / 4) * STUBS_AND_TACKS


def count_rods(bench: Bench, rod: str, section: Section, feed: Feed, diameter: float) -> int:
    """Return the number of rods for a seam at the length in stock.

    Args:
        bench: The bench.
        rod: The rod.
        section: The section.
        feed: The feed.
        diameter: Diameter, mm.
    """
    return math.ceil(
        calculate_feed_by_length(feed, diameter)
        * section.length_mm
        / rod_length_mm(bench, rod, diameter)
    )


def can_melt_rod(thin: float, diameter: float, wanted: float) -> bool:
    """Return whether a sheet melts a rod as well as the preferred one.

    At most 1.3 times the sheet or 1.6 mm, and wire below 0.8 mm.

    Args:
        thin: Thickness, mm.
        diameter: Diameter, mm.
        wanted: Preferred diameter, mm.
    """
    return diameter <= wanted or not (_is_too_thick(thin, diameter) or _is_chilling(thin, diameter))


def _is_too_thick(thin: float, diameter: float) -> bool:
    """Whether a sheet cannot melt a rod easily. Lengths in mm."""
    return diameter > max(STOUT_ROD_MM, MAX_SHEET_SHARE * thin)


def _is_chilling(thin: float, diameter: float) -> bool:
    """Whether a rod chills the pool on sheet for which only wire is suitable. Lengths in mm."""
    return thin < THIN_MM and diameter >= ROD_FROM_MM


def rod_length_mm(bench: Bench, rod: str, diameter: float) -> float:
    """Return the length of the rods of a class and diameter in stock, mm, or the usual length.

    Args:
        bench: The bench.
        rod: The rod.
        diameter: Diameter, mm.
    """
    lengths_mm = [
        rod_stock.length_mm
        for rod_stock in bench.shop.rod_stock.get(rod, ())
        if rod_stock.diameter_mm == diameter
    ]
    return max(lengths_mm, default=load_rod_sizes().rod_length_mm)


def _list_substitutions(rod: Rod, wanted: float, used: float) -> tuple[Substitution, ...]:
    cost = (
        "a larger heat sink, which chills a small pool"
        if used > wanted
        else "more feeding, easier to place"
    )
    why = Sentence(
        "{n} times the length of rod, {cost}", n=f"{(wanted / used) ** 2:.2g}", cost=cost
    )
    return (
        Substitution(
            "filler",
            Sentence("{r} {d}", r=rod.key, d=stock(wanted)),
            Sentence("{r} {d}", r=rod.key, d=stock(used)),
            why,
        ),
    )


def under_sheet_mm(thin: float) -> float:
    """Return a rod thinner than the sheet, mm: easier to place, more feeding.

    Common practice.
    """
    if thin < 0.65:
        return 0.6
    if thin < THIN_MM:
        return 0.8
    return 1.0 if thin <= 2 else 1.6 if thin <= 3.5 else 2.4


def equals_sheet_mm(thin: float) -> float:
    """Return a rod equal to the sheet, mm: the nearest stocked size, 1.6 already on 1.5.

    Common practice.
    """
    return min(list_sold_mm(), key=lambda d: (round(abs(d - thin), 6), -d))


RULES = {"under-sheet": under_sheet_mm, "equals-sheet": equals_sheet_mm}
_NAMES = {"under-sheet": "rod thinner than the sheet", "equals-sheet": "rod as thick as the sheet"}
_RULES = {
    "under-sheet": (
        "wire of 0.6 mm up to 0.65 mm sheet and of 0.8 mm up to 0.8; 1.0 up to 2 mm; "
        "1.6 up to 3.5 mm; 2.4 above"
    ),
    "equals-sheet": "the stocked size nearest to the sheet, the thicker of two",
}
_COSTS = {
    "under-sheet": "Easier to place, and chills a small pool less. More feeding.",
    "equals-sheet": "Less feeding. The larger heat sink chills a small pool.",
}


def _explain_size(
    approach: str, thin: float, wanted: float, diameter: float, is_manual: bool
) -> Reason:
    if is_manual:
        return Practice("Rod of {d} set manually.", d=stock(diameter))
    if diameter != wanted:
        text = (
            "{d} from stock, because {w} is missing or short. The approach “{school}” "
            "would use that."
        )
        return Practice(text, d=stock(diameter), w=stock(wanted), school=_NAMES[approach])
    if diameter < ROD_FROM_MM:
        text = "Below {limit} the rod is wire of {d}, cut from a spool of the same class."
        return Practice(text, limit=length(THIN_MM), d=stock(diameter))
    if approach == "under-sheet" and diameter > thin:
        return Practice(
            "{d} rod on {t}: the thinnest that is sold in lengths and still feeds well.",
            d=stock(diameter),
            t=length(thin),
        )
    reason = Practice(
        "{d} rod on {t}: {school}.", d=stock(diameter), t=length(thin), school=_NAMES[approach]
    )
    return WithFormula(reason, _RULES[approach], "{t}: {d}", t=length(thin), d=stock(diameter))


def _explain_sold(diameter: float) -> tuple[Reason, ...]:
    """Return the nearest size in inches where a diameter in mm is only sold in millimetres."""
    sizes = load_rod_sizes()
    if diameter not in sizes.metric_mm:
        return ()
    nearest = min(
        (d for d in sizes.stocked_mm if d > diameter and d not in sizes.metric_mm),
        default=diameter,
    )
    text = "Where rods are sold in inches, use {d} instead."
    return (Practice(text, d=stock(nearest)),)


def _explain_rate(feed: Feed, speed: float, diameter: float, usual: float) -> Reason:
    """Return the feed rate, and whether it decided the size. Speed mm/s, diameters mm."""
    rate = feed_mm_min(feed.deposit_mm2, speed, diameter)
    text = "Fed by hand at {f} a minute. A welder keeps up to {m} even."
    if diameter > usual and feed_mm_min(feed.deposit_mm2, speed, usual) > EASY_FEED_MM_MIN:
        text += " A rod of {u} would need {g}."
    figures = {
        "f": size(rate),
        "m": size(EASY_FEED_MM_MIN),
        "u": stock(usual),
        "g": size(feed_mm_min(feed.deposit_mm2, speed, usual)),
    }
    return WithFormula(
        Practice(text, **figures),
        "feed = 60 · deposit section · travel speed / rod section",
        "60 × {a} mm² × {v} mm/s / {r} mm² = {f}",
        a=f"{feed.deposit_mm2:.2f}",
        v=f"{speed:.2f}",
        r=f"{math.pi * diameter**2 / 4:.3f}",
        f=size(rate),
    )


def check_feed_rate(feed_mm_min: float, diameter: float, keys: tuple[str, ...]) -> list[Caution]:
    """Return the caution or stop for a feed faster than a hand.

    Args:
        feed_mm_min: Feed, mm/min.
        diameter: Diameter of the rod, mm.
        keys: Manual answers that cause it.

    References:
        Common practice.
    """
    if feed_mm_min <= EASY_FEED_MM_MIN + 1e-6:
        return []
    figures = {
        "f": size(feed_mm_min),
        "m": size(EASY_FEED_MM_MIN),
        "most": size(MAX_FEED_MM_MIN),
        "d": stock(diameter),
    }
    item: Caution
    if feed_mm_min > MAX_FEED_MM_MIN:
        text = (
            "Do not weld: this joint needs {f} a minute of {d} rod, but a hand feeds {most} at "
            "most. The joint will not fill. Use a larger rod or a smaller leg."
        )
        item = Stop("feed-too-fast", "filler", text, **figures)
    else:
        text = (
            "This joint needs {f} a minute of {d} rod. Manual feeding becomes uneven above {m}. "
            "Use a larger rod or a smaller leg."
        )
        item = Care("feed-fast", "filler", text, **figures)
    return [WithFix(item, "Use the calculated values", **dict.fromkeys(keys))] if keys else [item]


def _explain_position(joint: Joint) -> tuple[Reason, ...]:
    if not joint.position.small_pool:
        return ()
    text = (
        "{position}: always use a rod thinner than the sheet, fed little and often. "
        "A thick rod chills the small pool and droops."
    )
    return (Practice(text, position=joint.position.name.capitalize()),)


def _explain_feed(feed: Feed, fed: float, by_length: float, pool: float) -> Reason:
    """Return the feed as work.

    Leg and throat of a fillet or the reinforcement over the pool width, and rod for 100 mm of seam.
    """
    leg = feed.leg_mm
    how = (
        "A leg of {leg}, throat {throat}"
        if leg
        else "A build-up of {high} over the width of the pool"
    )
    more = (
        ", {m} times the usual amount to keep the weld metal sound"
        if feed.more > MORE_THAN_USUAL
        else ""
    )
    text = (
        f"{how}{more}: {{per}} of rod for each {{hundred}}, {{fed}} in total, with 15 "
        "% for stubs and tacks."
    )
    figures = {
        "leg": length(leg or 0.0),
        "throat": length(THROAT_SHARE * (leg or 0.0)),
        "high": length(feed.deposit_mm2 / pool),
        "m": f"{feed.more:.1f}",
        "per": size(100 * by_length),
        "hundred": length(100.0),
        "fed": size(fed),
    }
    reason = Estimate("deposit-section", text, **figures)
    worked = "section {a} mm² × seam ÷ rod section × 1.15 = {fed}"
    return WithFormula(
        reason,
        "feed = section × length / rod section × 1.15",
        worked,
        a=f"{feed.deposit_mm2:.2f}",
        fed=size(fed),
    )


def _list_other_approach(approach: str, thin: float, diameter: float) -> tuple[Alternative, ...]:
    other = "equals-sheet" if approach == "under-sheet" else "under-sheet"
    theirs = RULES[other](thin)
    if theirs == diameter:
        return ()
    text = f"{_NAMES[other].capitalize()}: {_COSTS[other]}"
    return (
        Alternative(
            Sentence("{d} rod", d=stock(theirs)), Sentence(text), {"rod_school": other}, "rod"
        ),
    )


def _check_diameter(thin: float, diameter: float) -> tuple[Caution, ...]:
    """Judge a diameter that the user sets. The rules and the stock never give such a diameter.

    Args:
        thin: Thickness of the thinner member, mm.
        diameter: Diameter of the rod, mm.
    """
    figures = {"d": stock(diameter), "t": length(thin)}
    if _is_chilling(thin, diameter):
        text = (
            "A {d} rod on {t} chills the pool. It drops in lumps. Use wire cut from a "
            "spool, or no filler."
        )
    elif _is_too_thick(thin, diameter):
        text = "A {d} rod is thick for {t} sheet. It melts unevenly. Use {better}."
        figures["better"] = stock(under_sheet_mm(thin))
    else:
        return ()
    item = Care("rod-too-thick", "filler", text, **figures)
    return (WithFix(item, "Use the recommended rod", **{"pins.rod_diameter_mm": None}),)
