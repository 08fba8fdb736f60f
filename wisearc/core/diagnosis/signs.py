"""The strength of each sign of a run, from 0 to 1, or None if unknown, with its figures.

An observation is present or absent. A calculated sign grows between two ends, both estimates: about
the limits of indifference and of rejection in the trade.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

from msgspec import Struct, field

from .. import catalogue
from ..physics.gas import DRAUGHT_M_S
from ..plan.arc.setting import needs_slow_taper
from ..plan.shielding.back import STRAW_C
from ..plan.shielding.gas import get_turbulence_limit
from ..quantities import Quantity
from ..reasons import Sentence, Words
from ..run.inspection import BRIGHT, EMPTY_INSPECTION, TINTED
from ..run.latest_inspection import find_bead_surface, find_colour, find_flaws, is_oxidised
from ..run.run import NO_ROD, Run
from ..weld_session.steps import pool_limit_s, taper_s
from .actual import Actual, planned_band_mm

LONG_SEAM_MM = 150.0
# The trait of a metal that rusts by nature in wet service.
RUSTS = "rusts_wet"
# A tight arc has 9 to 12 V: common practice.
TIGHT_V = 12.0
# The ends between which a sign grows from zero to one: estimates.
POOL_GROWS, CURRENT_GROWS, TRAVEL_SPEED_GROWS = (0.05, 0.22), (0.05, 0.15), (0.08, 0.25)
COVER_GROWS, GAP_GROWS, JET_GROWS, DISTANCE_GROWS = (
    (0.0, 0.3),
    (-0.1, 0.3),
    (-0.12, 0.05),
    (-0.05, 0.15),
)
SLOW_GROWS, LESS_GROWS, TAPER_GROWS = (-0.02, 0.2), (0.2, 0.5), (0.15, 0.6)
BEAD_GROWS, VOLTS_GROWS, TACKS_GROWS, BAND_GROWS = (
    (0.15, 0.5),
    (0.0, 0.12),
    (0.05, 0.4),
    (0.15, 0.5),
)
TUNGSTEN_GROWS = (-0.05, 0.2)
LATE_GROWS, GLOW_GROWS_S, AIR_GROWS = (0.0, 1.0), (0.0, 2.5), (0.1, 1.2)
# The signs that only an answer of the welder gives.
ASKED_ONLY = (
    "half-sugar",
    "dirty",
    "draught",
    "iron-tool",
    "rod-side",
    "arc-on-thin",
    "far-out",
    "spot-grey",
    "cap-loose",
    "leans",
    "damp-rod",
    "tint-left",
    "vent-small",
    "starved",
    "held-tight",
    "cold-metal",
    "beside-seam",
    "dabs-uneven",
)
# The part of the seam at either end, and the length that counts as all along: estimates.
NEAR_END, ALL_ALONG = 0.3, 0.6
# The cautions of a weld metal that cracks while hot.
HOT_SHORT = ("ferrite-low", "no-ferrite", "hot-cracking")
# The tint at which the width is measured.
BAND_TINT = "pale-straw"


class SignStrength(Struct, frozen=True):
    """A sign of a run.

    Strength 0 to 1 or None, its figures, and its origin ("seen", "set", "log", "read" or "plan").
    """

    key: str
    strength: float | None
    by: str = "seen"
    figures: Mapping[str, Quantity | str] = field(default_factory=dict)

    @property
    def words(self) -> Words:
        """Return the text of the sign."""
        return Sentence(catalogue.load_signs()[self.key].words, **self.figures)


def interpolate_strength(value: float, ends: tuple[float, float]) -> float:
    """Interpolate linearly between two ends, from 0 to 1, by definition.

    Args:
        value: The value.
        ends: The values for 0 and 1.

    >>> interpolate_strength(0.1, (0.0, 0.4))
    0.25
    >>> interpolate_strength(-1, (0, 1)), interpolate_strength(2, (0, 1))
    (0.0, 1.0)
    """
    low, high = ends
    return min(1.0, max(0.0, (value - low) / (high - low)))


def list_signs(actual: Actual) -> dict[str, SignStrength]:
    """Return every sign of a run by key.

    An answer of the welder overrides a derived sign.
    """
    strengths = {
        strength.key: strength
        for strength in (*_list_seen_signs(actual), *_list_calculated_signs(actual))
    }
    for key, answer in ((actual.run.seen or EMPTY_INSPECTION).told or {}).items():
        strengths[key] = SignStrength(key, float(answer))
    return strengths


def _list_seen_signs(actual: Actual) -> Iterator[SignStrength]:
    run, inspection = actual.run, actual.run.seen or EMPTY_INSPECTION
    flaws, surface, coupon = find_flaws(run), find_bead_surface(run), run.coupon
    ripple = inspection.ripple
    faults, is_inspected = set(flaws or ()), flaws is not None

    for sign in catalogue.load_signs().values():
        if sign.flaw:
            unsaid = None if sign.missed or not is_inspected else 0.0
            yield SignStrength(sign.key, 1.0 if sign.flaw in faults else unsaid)
    yield SignStrength("even", 1.0 if ripple == "even" or surface == "even" else None)
    yield SignStrength("rough", None if surface is None else float(surface == "rough"))
    yield SignStrength("wide", None if surface is None else float(surface == "wide"))
    touched = "touched" in faults or (actual.arc.touched or 0) > 0
    yield SignStrength("touched", 1.0 if touched else 0.0 if is_inspected else None)
    ends = [end for end in (coupon.bend, coupon.hammer) if end] if coupon else []
    yield SignStrength("toe-broke", float("toe" in ends) if ends else None)
    rust = coupon.rust if coupon else None
    yield SignStrength(
        "rusts",
        (
            1.0
            if "rust" in faults or (rust is not None and rust.shows)
            else None
            if rust is None and not is_inspected
            else 0.0
        ),
    )
    yield from _list_face_signs(actual)
    yield from _list_band_signs(actual)
    for key in ASKED_ONLY:
        yield SignStrength(key, None)


def _list_face_signs(actual: Actual) -> Iterator[SignStrength]:
    run = actual.run
    front, back = find_colour(run, "front"), find_colour(run, "back")
    grey = front == "grey" or "grey" in (find_flaws(run) or ())
    yield SignStrength("grey", float(grey))
    yield SignStrength("front-tint", None if front is None or grey else float(front in TINTED))
    yield SignStrength("front-bright", None if front is None else float(front in BRIGHT))
    unseen, sugar = back in (None, "not-seen"), is_oxidised(run)
    yield SignStrength("sugar", 1.0 if sugar else None if unseen else 0.0)
    yield SignStrength("back-tint", None if unseen else float(back in (*TINTED, "grey")))
    yield SignStrength("back-bright", None if unseen else float(back in BRIGHT))
    yield from _list_oxidised_places(run)
    inspection = run.seen or EMPTY_INSPECTION
    place = inspection.place("grey") or inspection.place("front")
    if not grey or place is None:
        yield SignStrength("grey-at-end", None if grey else 0.0)
        yield SignStrength("grey-all", None if grey else 0.0)
        return
    first, last = (1.0, 1.0) if isinstance(place, str) else place
    at_end = first >= 1 - NEAR_END
    yield SignStrength("grey-at-end", float(at_end))
    yield SignStrength("grey-all", 0.0 if at_end else min(1.0, (last - first) / ALL_ALONG))


def _list_oxidised_places(run: Run) -> Iterator[SignStrength]:
    """Yield where along the seam the root is oxidised."""
    place = (run.seen or EMPTY_INSPECTION).place("back")
    if not is_oxidised(run) or not isinstance(place, tuple):
        unknown = None if is_oxidised(run) else 0.0
        for key in ("sugar-at-start", "sugar-at-end", "sugar-all"):
            yield SignStrength(key, unknown)
        return
    first, last = place
    yield SignStrength("sugar-at-start", float(last <= NEAR_END))
    yield SignStrength("sugar-at-end", float(first >= 1 - NEAR_END))
    is_short = last <= NEAR_END or first >= 1 - NEAR_END
    yield SignStrength("sugar-all", 0.0 if is_short else min(1.0, (last - first) / ALL_ALONG))


def _list_band_signs(actual: Actual) -> Iterator[SignStrength]:
    inspection, tint = (
        (actual.run.seen or EMPTY_INSPECTION).band_mm,
        catalogue.load_tints()[BAND_TINT],
    )
    planned = planned_band_mm(actual.plan, tint.from_c or 0.0)
    figures = (
        {"seen": Quantity(inspection, "size"), "planned": Quantity(planned, "size")}
        if inspection
        else {}
    )
    yield SignStrength(
        "band-wide",
        None if inspection is None else interpolate_strength(inspection / planned - 1, BAND_GROWS),
        "seen",
        figures,
    )


def _list_calculated_signs(actual: Actual) -> Iterator[SignStrength]:
    yield from _list_heat_signs(actual)
    yield from _list_shielding_signs(actual)
    yield from _back(actual)
    yield from _fit(actual)
    yield from _list_technique_signs(actual)


def _list_heat_signs(actual: Actual) -> Iterator[SignStrength]:
    plan, by = actual.plan, actual.current_source
    pool, share, travel_speed = actual.pool_mm, actual.share, actual.travel_mm_s
    wide = plan.travel.pool_width_mm
    off = None if pool is None else math.log(max(pool, 0.2) / wide)
    figures = {"seen": Quantity(pool or 0.0, "size"), "planned": Quantity(wide, "size")}
    yield SignStrength(
        "pool-large", None if off is None else interpolate_strength(off, POOL_GROWS), by, figures
    )
    yield SignStrength(
        "pool-small", None if off is None else interpolate_strength(-off, POOL_GROWS), by, figures
    )
    figures = {
        "seen": Quantity(actual.mean_a or 0.0, "current"),
        "planned": Quantity(plan.slopes.mean_a, "current"),
    }
    yield SignStrength(
        "amps-over",
        None if share is None else interpolate_strength(share - 1, CURRENT_GROWS),
        by,
        figures,
    )
    yield SignStrength(
        "amps-under",
        None if share is None else interpolate_strength(1 - share, CURRENT_GROWS),
        by,
        figures,
    )
    figures = {
        "seen": Quantity(travel_speed or 0.0, "speed"),
        "planned": Quantity(plan.travel.speed_mm_s, "speed"),
    }
    faster = None if travel_speed is None else travel_speed / plan.travel.speed_mm_s - 1
    yield SignStrength(
        "pace-fast",
        None if faster is None else interpolate_strength(faster, TRAVEL_SPEED_GROWS),
        by,
        figures,
    )
    yield SignStrength(
        "pace-slow",
        None if faster is None else interpolate_strength(-faster, TRAVEL_SPEED_GROWS),
        by,
        figures,
    )
    volts = actual.arc_v
    figures = {"seen": Quantity(volts or 0.0, "voltage"), "planned": Quantity(TIGHT_V, "voltage")}
    yield SignStrength(
        "arc-long",
        None if volts is None else interpolate_strength(volts / TIGHT_V - 1, VOLTS_GROWS),
        "log",
        figures,
    )
    bead = actual.run.measured.bead_mm
    figures = {"seen": Quantity(bead or 0.0, "length"), "planned": Quantity(wide, "size")}
    yield SignStrength(
        "bead-wide",
        None if bead is None else interpolate_strength(bead / wide - 1, BEAD_GROWS),
        "seen",
        figures,
    )
    yield SignStrength("unchilled", float(not plan.back.barred), "plan")
    yield SignStrength(
        "long-seam",
        float(plan.travel.length_mm >= LONG_SEAM_MM),
        "plan",
        {"planned": Quantity(plan.travel.length_mm, "size")},
    )


def _list_shielding_signs(actual: Actual) -> Iterator[SignStrength]:
    plan = actual.plan
    figures: dict[str, Quantity | str] = {
        "seen": Quantity(actual.hot_band_mm, "size"),
        "planned": Quantity(actual.cover_mm, "size"),
    }
    yield SignStrength(
        "band-uncovered",
        interpolate_strength(actual.hot_band_mm / actual.cover_mm - 1, COVER_GROWS),
        "plan",
        figures,
    )
    out, limit_mm = plan.torch.stickout_mm, plan.torch.stickout_limit_mm
    figures = {"seen": Quantity(out, "size"), "planned": Quantity(limit_mm, "size")}
    yield SignStrength(
        "lens-far", interpolate_strength(out / limit_mm - 1, DISTANCE_GROWS), "plan", figures
    )
    held, glow = actual.covered_s, actual.glow_s
    figures = {
        "seen": Quantity(held or 0.0, "seconds"),
        "planned": Quantity(round(glow, 1), "seconds"),
    }
    is_known = actual.arc.held_s is not None or actual.arc.postflow_s is not None
    early = 0.0 if held is None else interpolate_strength(glow - held, GLOW_GROWS_S)
    # A sufficient gas setting does not show that the torch stayed over the crater.
    known = held is not None and (is_known or early > 0)
    yield SignStrength(
        "left-early", early if known else None, "log" if is_known else "set", figures
    )
    is_known = actual.run.set.flow_l_min is not None
    maximum = get_turbulence_limit(plan.torch.front_end)
    figures = {"seen": f"{actual.reynolds:.0f}", "planned": f"{maximum:.0f}"}
    yield SignStrength(
        "jet-torn",
        interpolate_strength(actual.reynolds / maximum - 1, JET_GROWS) if is_known else None,
        "set",
        figures,
    )
    slow = max(
        interpolate_strength(1 - actual.exit_speed_m_s / DRAUGHT_M_S, SLOW_GROWS),
        interpolate_strength(1 - actual.flow_l_min / plan.gas.flow_l_min, LESS_GROWS),
    )
    figures = {"seen": f"{actual.exit_speed_m_s:.2f}", "planned": f"{DRAUGHT_M_S:g}"}
    yield SignStrength("jet-slow", slow if is_known else None, "set", figures)
    cup, planned = actual.run.used.cup, plan.torch.cup
    yield SignStrength(
        "cup-smaller",
        None if cup is None else float(cup < planned),
        "set",
        {"seen": f"no. {cup or planned:g}", "planned": f"no. {planned:g}"},
    )
    yield _compare_tungsten(actual)
    kind = catalogue.load_joint_kinds().get(str(plan.joint.get("joint")))
    yield SignStrength("splits-gas", float(kind is not None and kind.has("splits_gas")), "plan")
    yield SignStrength("along-edge", float(kind is not None and kind.has("along_edge")), "plan")


def _compare_tungsten(actual: Actual) -> SignStrength:
    """Return how far the current lies below the range of the tungsten."""
    plan = actual.plan
    mean = actual.mean_a or plan.slopes.mean_a
    tips = [tip for tip in catalogue.load_tips() if tip.diameter_mm == plan.tungsten.diameter_mm]
    minimum = min((tip.steady_a[0] for tip in tips), default=0.0)
    short = interpolate_strength(1 - mean / minimum, TUNGSTEN_GROWS) if minimum else 0.0
    figures = {"seen": Quantity(mean, "current"), "planned": Quantity(minimum, "current")}
    return SignStrength("tungsten-thick", short, "plan", figures)


def _back(actual: Actual) -> Iterator[SignStrength]:
    plan, purge = actual.plan, actual.run.purge
    cover = catalogue.back_covers().get(plan.back.cover)
    hot = plan.section.stainless_sides > 0 and (
        plan.back.back_c is None or plan.back.back_c > STRAW_C
    )
    yield SignStrength("back-open", float(hot and cover is not None and cover.has("bare")), "plan")
    yield SignStrength("purged", float(plan.back.purged), "plan")
    # What was read at the start of the arc; without it, the maximum.
    levels_ppm = (purge.at_arc_ppm, purge.most_ppm) if purge else ()
    read = [ppm for ppm in levels_ppm if ppm is not None][:1]
    planned = plan.back.purge.target_ppm if plan.back.purge else 0
    target = (purge.target_ppm if purge else 0) or planned
    figures = {
        "seen": Quantity(max(read, default=0.0), "ppm"),
        "planned": Quantity(target or 0.0, "ppm"),
    }
    high = (
        interpolate_strength(math.log(max(*read, 1e-6) / target), AIR_GROWS)
        if read and target
        else None
    )
    yield SignStrength("purge-high", high, "log", figures)
    at_arc, most = (purge.at_arc_ppm, purge.most_ppm) if purge else (None, None)
    rose = None
    if at_arc is not None and most is not None and target:
        rose = interpolate_strength(math.log(max(most, 1e-6) / max(at_arc, target)), AIR_GROWS)
    figures = {"seen": Quantity(most or 0.0, "ppm"), "planned": Quantity(target or 0.0, "ppm")}
    yield SignStrength("purge-rose", rose, "log", figures)


def _fit(actual: Actual) -> Iterator[SignStrength]:
    plan, gap = actual.plan, actual.run.used.gap_mm
    gap = plan.section.gap_mm or None if gap is None else gap
    maximum = plan.fit_up.max_gap_mm
    figures = {"seen": Quantity(gap or 0.0, "length"), "planned": Quantity(maximum, "length")}
    yield SignStrength(
        "gap-over",
        None if gap is None else interpolate_strength(gap / maximum - 1, GAP_GROWS),
        "set",
        figures,
    )
    tacks = actual.arc.tacks
    fewer = None if not tacks else interpolate_strength(1 - tacks / plan.tacks.count, TACKS_GROWS)
    yield SignStrength(
        "tacks-fewer",
        fewer,
        "log",
        {"seen": f"{tacks or 0:.0f}", "planned": f"{plan.tacks.count:.0f}"},
    )
    yield SignStrength("unlike", float(plan.section.thick_mm > 1.2 * plan.section.thin_mm), "plan")
    yield SignStrength("rod-fed", float(plan.filler.rod is not None), "plan")
    carbon = actual.carbon_rod
    yield SignStrength("rod-carbon", None if carbon is None else float(carbon), "set")
    yield from _list_metal_signs(actual)


def _list_metal_signs(actual: Actual) -> Iterator[SignStrength]:
    """Yield the signs of metals and rod."""
    plan, used = actual.plan, actual.run.used.rod
    metals = [metal for metal in plan.metals[:2] if metal is not None]
    for key, trait in (("magnetic", "magnetic"), ("hardens", "hardens"), ("rusts-wet", RUSTS)):
        yield SignStrength(key, float(any(metal.has(trait) for metal in metals)), "plan")
    codes = {caution.code for caution in plan.cautions}
    yield SignStrength("hot-short", float(bool(codes.intersection(HOT_SHORT))), "plan")
    planned = plan.filler.rod or NO_ROD
    yield SignStrength(
        "rod-other",
        None if used is None else float(used != planned),
        "set",
        {"seen": used or planned, "planned": planned},
    )


def _list_technique_signs(actual: Actual) -> Iterator[SignStrength]:
    plan, arc = actual.plan, actual.arc
    wanted, taper = taper_s(plan), arc.taper_s
    figures = {
        "seen": Quantity(round(taper or 0.0, 1), "seconds"),
        "planned": Quantity(wanted, "seconds"),
    }
    yield SignStrength(
        "taper-short",
        None if taper is None else interpolate_strength(1 - taper / wanted, TAPER_GROWS),
        "log",
        figures,
    )
    yield SignStrength("cracks-short", float(needs_slow_taper(plan.metals, plan.section)), "plan")
    limit, pool = pool_limit_s(plan), arc.pool_s
    figures = {
        "seen": Quantity(round(pool or 0.0, 1), "seconds"),
        "planned": Quantity(limit, "seconds"),
    }
    yield SignStrength(
        "pool-late",
        None if pool is None else interpolate_strength(pool / limit - 1, LATE_GROWS),
        "log",
        figures,
    )
    restarts = arc.restarts
    yield SignStrength(
        "restarts",
        None if restarts is None else float(restarts > 0),
        "log",
        {"seen": f"{restarts or 0:.0f}"},
    )
