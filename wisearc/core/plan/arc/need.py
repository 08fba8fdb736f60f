"""The current for the seam at its travel speed: one equation for travel speed, current and pool.

The rule of thumb belongs to one travel speed and pool. At another travel speed, the current changes
with the heat flow.
"""

from __future__ import annotations

import math

from msgspec import Struct

from ... import catalogue
from ...history.families import find_joint_family, find_metal_family
from ...history.shop_history import OwnRecord
from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.fillet import fillet_pool_mm, fillet_travel_mm_s
from ...physics.heat import AMBIENT_C, ARC_VOLTAGE_V, current_for_pool_a, net_power_w
from ...quantities import amps_without_unit, length
from ...reasons import Estimate, Practice, Reason, WithFormula
from ...shop.bench import Bench

ARC_LENGTH_MM = 1.5
A_PER_MM = 1000 / 25.4
THICK_FROM_MM = 2.4
THICK_EXPONENT = 0.565
CARBON_FACTORS = (1.0, 1.07, 1.15)
FERRITIC_FACTORS = (1.0, 1.05, 1.1)
WITHOUT_REMOTE_A, WITHOUT_REMOTE_V = 0.95, 1.05
OWN_RUNS_NEEDED = 3
# The key of the joint that selects the shop history or the rule of thumb.
OWN_KEY, RECORD, BENCH = "own_record", "record", "bench"
# Travel speed, mm/s: maximum, and times t. Pool, mm: maximum, minimum, and times t.
BARE = (4.2, 5.4, 6.5, 2.2, 2.2)
MIN_FED_POOL_MM = 3.0
FED = (3.0, 4.0, 7.5, MIN_FED_POOL_MM, 2.8)
# A fillet has the travel speed of its energy balance up to the first value, in mm/s. The experience
# of welders, for comparison: maximum, and times t.
MAX_FED_FILLET_MM_S = 2.5
# No welder moves more slowly. A larger leg needs several passes.
MIN_FILLET_MM_S = 0.3
FILLET_EXPERIENCE = (2.5, 3.8)
SMALL_POOL_IN_T, SMALL_POOL_MM = 2.0, 5.0
# The pool at the end of a dab: its width relative to the target pool, and its length relative to
# its width. Estimate.
DAB_POOL, LENGTH_IN_WIDTHS = 0.88, 1.08
# An acute side has more metal near the arc: a tenth of the additional length of the section.
ACUTE_SHARE = 0.1
BRAZE_C = 1030.0


class CurrentModel(Struct, frozen=True):
    """The current of a seam.

    Travel speed mm/s and pool mm of the rule of thumb, its current A, the shop history and whether
    it is used. `heat` has the properties of the section, k W/mm·K etc. `melt` is the fraction of
    current if the sheet does not melt (a braze).
    """

    section: Section
    speed_mm_s: float
    pool_mm: float
    bench_a: float
    own: OwnRecord | None
    by_record: bool
    melt: float
    why: Reason

    @property
    def base_a(self) -> float:
        """Return the steady current at the base travel speed, A."""
        return self.own_a if self.own_a is not None and self.goes_by_record else self.bench_a

    @property
    def goes_by_record(self) -> bool:
        """Return whether the shop history decides.

        Three good runs of similar joints, and a joint that uses it. Common practice.
        """
        return self.by_record and self.own is not None and self.own.counted >= OWN_RUNS_NEEDED

    @property
    def own_a(self) -> float | None:
        """Return the current by the shop history at the base travel speed, A, or None."""
        return None if self.own is None else self.bench_a * self.own.ratio

    def share(self, travel_mm_s: float) -> float:
        """Return the current at a travel speed relative to the base.

        (0.2 + v w/4a) / (0.2 + v₀ w/4a). Wells 1952; estimate.
        """
        return self.heat_flow_a(travel_mm_s) / self.heat_flow_a(self.speed_mm_s)

    def steady_a(self, travel_mm_s: float) -> float:
        """Return the steady current at a travel speed, A."""
        return self.base_a * self.share(travel_mm_s)

    def heat_flow_a(self, travel_mm_s: float) -> float:
        """Return the current for the pool at a travel speed by heat flow alone, A.

        Wells 1952.
        """
        heat, h = self.section.heat, self.section.h_mm
        return self.melt * current_for_pool_a(heat, h, self.pool_mm, travel_mm_s, ARC_VOLTAGE_V)

    def pool_after_peak_mm(self) -> float:
        """Return the pool length along the seam at the end of a dab, mm.

        References:
            Estimate.
        """
        return pool_length_mm(self.pool_mm)


def pool_length_mm(target_mm: float) -> float:
    """Return the pool length along the seam at the end of a dab, mm.

    Args:
        target_mm: Target pool width, mm.

    References:
        Estimate.
    """
    return LENGTH_IN_WIDTHS * DAB_POOL * target_mm


def build_current_model(
    joint: Joint, section: Section, bench: Bench, rod: str | None, leg_mm: float | None
) -> CurrentModel:
    """Build the current model of a seam.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        rod: The rod, or None for an autogenous weld.
        leg_mm: Leg of a fillet with filler, mm, or None.
    """
    bare = rod is None
    melt = (BRAZE_C - AMBIENT_C) / (section.heat.liquidus_c - AMBIENT_C) if is_braze(rod) else 1.0
    rule, why = _apply_rule_of_thumb(joint, section, bench, melt)
    speed = base_travel_mm_s(joint, section, bench, bare, leg_mm, rule / melt)
    pool = in_line_pool_mm(joint, section, bare) if leg_mm is None else fillet_pool_mm(leg_mm)
    return CurrentModel(
        section, speed, pool, rule, find_shop_history(joint, bench), uses_history(joint), melt, why
    )


def uses_history(joint: Joint) -> bool:
    """Return whether a joint uses the shop history once it is large enough."""
    return joint.own_record == RECORD


def find_shop_history(joint: Joint, bench: Bench) -> OwnRecord | None:
    """Return the shop history for similar joints on this machine, or None.

    Args:
        joint: The joint.
        bench: The bench.
    """
    if bench.shop.own is None:
        return None
    thin = min(member.thickness_mm for member in joint.members)
    family, metals = find_joint_family(joint.kind, thin), find_metal_family(joint.pair)
    return bench.shop.own.like(family, metals, bench.machine.name)


def base_travel_mm_s(
    joint: Joint,
    section: Section,
    bench: Bench,
    bare: bool,
    leg_mm: float | None,
    current_a: float,
) -> float:
    """Return the base travel speed, mm/s.

    Autogenous min(4.2, 5.4/t), × 0.7 in a corner; with filler min(3.0, 4.0/t) in line. A fillet
    with filler has the travel speed of its energy balance, at most 2.5. The current that a thicker
    side or a third member takes away does not melt the fillet. Against gravity × 0.8.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        bare: Whether the weld is autogenous.
        leg_mm: Leg of a fillet with filler, mm, or None.
        current_a: Current by the rule of thumb, A.

    References:
        Autogenous and fillet: estimates. With filler in line: common practice.
    """
    factor = joint.position.speed_factor
    if not bench.machine.pulses and not joint.remote:
        factor *= WITHOUT_REMOTE_V
    if leg_mm is not None:
        melting_a = current_a * section.thin_mm / section.reckoned_mm / section.third_arm
        power = net_power_w(ARC_VOLTAGE_V, melting_a)
        speed = fillet_travel_mm_s(power, leg_mm, section.thin_mm)
        return max(MIN_FILLET_MM_S, min(MAX_FED_FILLET_MM_S, speed) * factor)
    maximum, by_t, *_ = BARE if bare else FED
    factor *= joint.kind.speed_factor if bare else 1.0
    return min(maximum, by_t / section.reckoned_mm) * factor


def experienced_travel_mm_s(thickness_mm: float) -> float:
    """Return the travel speed of fillets with filler by experience, mm/s: min(2.5, 3.8/t).

    References:
        Common practice, for comparison only.
    """
    maximum, by_t = FILLET_EXPERIENCE
    return min(maximum, by_t / thickness_mm)


def in_line_pool_mm(joint: Joint, section: Section, bare: bool) -> float:
    """Return the target pool width of a weld that is no fillet with filler, mm.

    Autogenous 2.2 t from 2.2 to 6.5; with filler 2.8 t from 3.0 to 7.5; against gravity at most the
    larger of 2 t and 5 mm.

    Args:
        joint: The joint.
        section: Its section.
        bare: Whether the weld is autogenous.

    References:
        Estimate.
    """
    _, _, maximum, minimum, in_t = BARE if bare else FED
    t = section.reckoned_mm
    width = min(maximum, max(minimum, in_t * t))
    if joint.position.small_pool:
        width = min(width, max(SMALL_POOL_IN_T * t, SMALL_POOL_MM))
    return width


def _apply_rule_of_thumb(
    joint: Joint, section: Section, bench: Bench, melt: float
) -> tuple[float, Reason]:
    """Return the current by the rule of thumb, with its reason.

    One amp for each thousandth of an inch of the thinner member, by joint, metal and position:
    common practice. From 2.4 mm × (2.4/t)^0.565, an estimate that gives 0.85 at 3.2 mm. An acute
    angle and a third member: estimates.
    """
    t = section.reckoned_mm
    carbon, ferritic = section.carbon_sides, sum(m.has("ferritic") for m in joint.pair)
    factors = [
        CARBON_FACTORS[carbon],
        FERRITIC_FACTORS[ferritic],
        joint.position.current_factor,
        (THICK_FROM_MM / t) ** THICK_EXPONENT if t > THICK_FROM_MM else 1.0,
        get_acute_factor(joint),
        section.third_arm,
        melt,
        WITHOUT_REMOTE_A if not bench.machine.pulses and not joint.remote else 1.0,
    ]
    amps = math.prod((A_PER_MM * t, joint.kind.current_factor, *factors))
    displayed = " × ".join(
        f"{v:.2f}" for v in (joint.kind.current_factor, *(f for f in factors if abs(f - 1) > 5e-3))
    )
    takes = ", carbon steel needs more" if carbon else ", ferritic needs more" if ferritic else ""
    text = f"1 A for each 0.001 in: {{t}}, {{joint}}{takes}."
    reason = WithFormula(
        Practice(text, t=length(t), joint=joint.kind.name),
        "I = 39.4 A/mm × t × joint × metal × position × thickness",
        "39.4 × {t} × {f} = {a} A",
        t=f"{t:.3f}",
        f=displayed,
        a=amps_without_unit(amps),
    )
    return amps, reason


def get_acute_factor(joint: Joint) -> float:
    """Return the additional current of an acute opening.

    θ is the angle between the members. Estimate.
    """
    return acute_factor(joint.angle_deg) if joint.kind.has("inner") else 1.0


def acute_factor(opening_deg: float) -> float:
    """Return the additional current of an opening in °: 1 + 0.1 (1/sin θ − 1).

    References:
        Estimate.
    """
    return 1 + ACUTE_SHARE * (1 / math.sin(math.radians(opening_deg)) - 1)


def need_reasons(joint: Joint, section: Section, need: CurrentModel) -> list[Reason]:
    """Return the reasons for the current, without the rule of thumb.

    Args:
        joint: The joint.
        section: Its section.
        need: The current model.
    """
    reasons: list[Reason] = [
        Estimate(
            "arms",
            "Heat leaves through every arm, as in a plate {h} thick.",
            h=length(section.h_mm),
        )
    ]
    first, second = joint.pair
    if first.thermal != second.thermal:
        text = "Dissimilar metals: calculated with the mean of their heat properties."
        reasons.append(Estimate("mixed-pair-thermal", text))
    if section.reckoned_mm > THICK_FROM_MM:
        text = "Above {t} the current grows more slowly than the thickness."
        reasons.append(Estimate("current-thick", text, t=length(THICK_FROM_MM)))
    if section.third_arm > 1:
        text = "The third member also removes heat: {f} times the heat of two members."
        reasons.append(Estimate("arms", text, f=f"{section.third_arm:.2f}"))
    if need.melt < 1:
        text = (
            "A braze does not melt the sheet. It needs {p} % of the current, for a sheet at {t} °C."
        )
        reasons.append(
            Estimate("braze-current", text, p=f"{100 * need.melt:.0f}", t=f"{BRAZE_C:.0f}")
        )
    if get_acute_factor(joint) > 1.005:
        text = "At {a}° more metal lies close to the arc: {p} % more current."
        share = 100 * (get_acute_factor(joint) - 1)
        reasons.append(Estimate("acute-current", text, a=f"{joint.angle_deg:g}", p=f"{share:.0f}"))
    if section.unlike:
        text = (
            "Different thicknesses: the current is for {t}. The thicker side counts up "
            "to twice the thinner."
        )
        reasons.append(Practice(text, t=length(section.reckoned_mm)))
    if not joint.position.has("level"):
        name = joint.position.name.capitalize()
        reasons.append(Practice("{name}: {note}", name=name, note=joint.position.note))
    return reasons


def is_braze(rod: str | None) -> bool:
    """Return whether a rod is a braze, which does not melt the sheet."""
    return rod is not None and catalogue.load_rods()[rod].has("braze")
