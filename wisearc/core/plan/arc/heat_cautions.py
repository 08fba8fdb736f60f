"""The cautions of the heat: a small part that heats up, and duplex that cools too fast."""

from __future__ import annotations

import math

from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.heat import (
    AMBIENT_C,
)
from ...quantities import temperature
from ...reasons import (
    Care,
    Caution,
    Note,
    WithFix,
)
from .heat_reasons import COOLING_C
from .travel import Travel

HOT_PART_C = 150.0
# Cooling of a duplex weld, s: good above the second value, a caution below the first.
COOLING_S = (2.0, 4.0)
_MARGIN = 1.02


def check_heat(
    joint: Joint,
    section: Section,
    travel: Travel,
    cooling: float,
    mean: float | None,
    interpass: float,
    barred: bool,
) -> list[Caution]:
    """Return the cautions of a small part that heats up, and of duplex that cools too fast.

    Args:
        joint: The joint.
        section: Its section.
        travel: The travel speed.
        cooling: Cooling of the seam from 1200 to 800 °C, s.
        mean: Mean temperature of a small part, °C, or None.
        interpass: Interpass limit, °C.
        barred: Whether bars are clamped.
    """
    cautions: list[Caution] = []
    if mean is not None and mean > HOT_PART_C:
        share = (HOT_PART_C - AMBIENT_C) / (mean - AMBIENT_C)
        text = (
            "The part passes a mean of {h} after about {t} s of arc and ends at about "
            "{m}. The pool will widen and the colour will darken. Stop there, wait until "
            "it is below {i}, and use less current for later runs. A part of a few tens "
            "of grams ends at about half of that."
        )
        item: Caution = Care(
            "hot-part",
            "heat",
            text,
            h=temperature(HOT_PART_C),
            t=f"{share * travel.arc_time_s:.0f}",
            m=temperature(mean),
            i=temperature(interpass),
        )
        shorter = max(1.0, 0.98 * share * travel.length_mm)
        cautions.append(
            WithFix(item, "Plan only the length that stays cool", length=f"{shorter:.0f} mm")
        )
    minimum, good_s = COOLING_S
    chilled = joint.which("no_chill")
    if chilled and cooling < good_s:
        text = (
            "{metal} cools from {a} to {b} in {s} s: {what}. The weld keeps too much "
            "ferrite. Use its over-alloyed rod and argon with 2 % nitrogen."
        )
        problem = (
            "slightly too fast"
            if cooling >= minimum
            else "too fast. Warm the part, remove the bars and travel more slowly"
            if barred
            else "too fast. Warm the part and travel more slowly"
        )
        figures = {
            "a": temperature(COOLING_C[0]),
            "b": temperature(COOLING_C[1]),
            "s": f"{cooling:.1f}",
        }
        level = Care if cooling < minimum else Note
        item = level("duplex-heat-low", "heat", text, metal=chilled, what=problem, **figures)
        cautions.append(_add_slower_fix(joint, section, travel, cooling, item))
    return cautions


def _add_slower_fix(
    joint: Joint, section: Section, travel: Travel, cooling: float, item: Caution
) -> Caution:
    """Add the correction for fast cooling: reset of manual values, or a travel speed for 2 s."""
    if item.level == "note":
        return item
    if joint.travel_mm_s is not None:
        return WithFix(item, "Use the calculated travel speed", travel_mm_s=None)
    released = {
        f"pins.{key}": None
        for key in ("current_a", "peak_a", "on_pct", "background_pct")
        if key in joint.pins
    }
    if released:
        return WithFix(item, "Use the calculated current", **released)
    # The cooling time varies with (q/v)², and q/v with 0.2/v + w/4a (Wells 1952).
    v, wide = travel.speed_mm_s, travel.pool_width_mm / (4 * section.heat.a)
    more = math.sqrt(COOLING_S[0] * _MARGIN / cooling)
    slow = math.floor(100 * 0.2 / (more * (0.2 / v + wide) - wide)) / 100
    return WithFix(item, "Travel more slowly", travel_mm_s=slow)
