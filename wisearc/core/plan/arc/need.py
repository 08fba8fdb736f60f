"""What current the seam needs, at the pace it is run: one equation for travel, current and pool.

The bench current belongs to a pace and a pool of its own; at any other pace the current goes with
the heat flow.
"""

from __future__ import annotations

import math

from msgspec import Struct

from ... import catalogue
from ...history.families import find_joint_family, find_metal_family
from ...history.shop_history import OwnRecord
from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.heat import AMBIENT_C, ARC_VOLTAGE_V, current_for_pool_a, net_power_w, pool_width_mm
from ...physics.pulse_train import travel_for_overlap_mm_s
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
# the key of the joint by which it goes by the own record or by the bench rule
OWN_KEY, RECORD, BENCH = "own_record", "record", "bench"
# pace mm/s: most, and times t; pool mm: most, least, and times t
BARE = (4.2, 5.4, 6.5, 2.2, 2.2)
FED = {"in-line": (3.0, 4.0, 7.5, 3.0, 2.8), "fillet": (2.5, 3.8, 6.5, 2.6, 2.4)}
SMALL_POOL_IN_T, SMALL_POOL_MM = 2.0, 5.0
REAL_POOL = 0.85
# an acute side lays more metal close to the arc: a tenth of what the cut is longer for the angle
ACUTE_SHARE = 0.1
BRAZE_C = 1030.0


class CurrentModel(Struct, frozen=True):
    """The current a seam needs. speed mm/s and pool mm the bench current belongs to; the bench
    current A; what like joints took, and whether the joint goes by it; heat: the section's, k
    W/mm·K and so on; melt: share of the current where the sheet is not melted (a braze).
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
        """The steady current at the seam's own pace, A."""
        return self.own_a if self.own_a is not None and self.goes_by_record else self.bench_a

    @property
    def goes_by_record(self) -> bool:
        """Whether the own record decides: three good runs of like joints, and a joint that goes by
        it. Common practice.
        """
        return self.by_record and self.own is not None and self.own.counted >= OWN_RUNS_NEEDED

    @property
    def own_a(self) -> float | None:
        """The current by the own record at the seam's own pace, A, whether it decides or not; None
        where no run tells.
        """
        return None if self.own is None else self.bench_a * self.own.ratio

    def share(self, travel_mm_s: float) -> float:
        """The current at a pace, of that at the seam's own: (0.2 + v w/4a) / (0.2 + v₀ w/4a). Wells
        1952; estimate.
        """
        return self.heat_flow_a(travel_mm_s) / self.heat_flow_a(self.speed_mm_s)

    def steady_a(self, travel_mm_s: float) -> float:
        """The steady current at a pace, A."""
        return self.base_a * self.share(travel_mm_s)

    def heat_flow_a(self, travel_mm_s: float) -> float:
        """The current that heat flow alone asks for the pool at a pace, A. Wells 1952."""
        heat, h = self.section.heat, self.section.h_mm
        return self.melt * current_for_pool_a(heat, h, self.pool_mm, travel_mm_s, ARC_VOLTAGE_V)

    def real_pool_mm(self, current_a: float, travel_mm_s: float) -> float:
        """The pool a steady current really melts, mm: Wells 1952 turned round, × 0.85
        (estimate).
        """
        power = net_power_w(ARC_VOLTAGE_V, current_a) / self.melt
        return REAL_POOL * pool_width_mm(self.section.heat, self.section.h_mm, power, travel_mm_s)

    def speed_for_ripple_mm_s(self, rate_pps: float, lap_pct: float) -> float:
        """The pace at which round pools lap by so many % at a rate, each pool that of the pace's
        own current, mm/s: bisection.
        """
        low, high = 0.05, 20.0
        for _ in range(40):
            v = (low + high) / 2
            if v > travel_for_overlap_mm_s(
                rate_pps, self.real_pool_mm(self.steady_a(v), v), lap_pct
            ):
                high = v
            else:
                low = v
        return low


def build_current_model(
    joint: Joint, section: Section, bench: Bench, bare: bool, brazed: bool = False
) -> CurrentModel:
    """The current a seam needs. Parameters: bare, no rod is fed; brazed, the sheet is not
    melted.
    """
    speed, pool = base_travel_mm_s(joint, section, bench, bare), pool_mm(joint, section, bare)
    melt = (BRAZE_C - AMBIENT_C) / (section.heat.liquidus_c - AMBIENT_C) if brazed else 1.0
    rule, why = _apply_rule_of_thumb(joint, section, bench, melt)
    return CurrentModel(
        section, speed, pool, rule, find_shop_history(joint, bench), uses_history(joint), melt, why
    )


def uses_history(joint: Joint) -> bool:
    """Whether a joint goes by the shop's own record once there is enough of it."""
    return joint.own_record == RECORD


def find_shop_history(joint: Joint, bench: Bench) -> OwnRecord | None:
    """What this shop's good runs of like joints took, on this machine; None where none tells."""
    if bench.shop.own is None:
        return None
    return bench.shop.own.like(
        find_joint_family(joint.kind), find_metal_family(joint.pair), bench.machine.name
    )


def base_travel_mm_s(joint: Joint, section: Section, bench: Bench, bare: bool) -> float:
    """The pace of the seam, mm/s: bare min(4.2, 5.4/t), × 0.7 in a corner; with rod fed min(3.0,
    4.0/t) in line, min(2.5, 3.8/t) in fillets and laps; against gravity × 0.8. Bare: estimate; fed:
    common practice.
    """
    most, by_t, *_ = BARE if bare else FED[joint.kind.fed]
    factor = (joint.kind.speed_factor if bare else 1.0) * joint.position.speed_factor
    if not bench.machine.pulses and not joint.remote:
        factor *= WITHOUT_REMOTE_V
    return min(most, by_t / section.reckoned_mm) * factor


def pool_mm(joint: Joint, section: Section, bare: bool) -> float:
    """The pool aimed for, mm: bare 2.2 t from 2.2 to 6.5; fed 2.8 t from 3.0 to 7.5 in line, 2.4 t
    from 2.6 to 6.5 in fillets and laps; against gravity no wider than 2 t or 5 mm, whichever is
    more. Estimate.
    """
    _, _, most, least, in_t = BARE if bare else FED[joint.kind.fed]
    t = section.reckoned_mm
    width = min(most, max(least, in_t * t))
    if joint.position.small_pool:
        width = min(width, max(SMALL_POOL_IN_T * t, SMALL_POOL_MM))
    return width


def _apply_rule_of_thumb(
    joint: Joint, section: Section, bench: Bench, melt: float
) -> tuple[float, Reason]:
    """One amp a thousandth of an inch of the thinner member, by joint, metal, position. Common
    practice.

    From 2.4 mm up × (2.4/t)^0.565, an estimate that holds 0.85 at 3.2 mm; an acute angle and a
    third member: estimates.
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
    shown = " × ".join(
        f"{v:.2f}" for v in (joint.kind.current_factor, *(f for f in factors if abs(f - 1) > 5e-3))
    )
    takes = ", carbon steel needs more" if carbon else ", ferritic needs more" if ferritic else ""
    words = f"1 A for each 0.001 in: {{t}}, {{joint}}{takes}."
    reason = WithFormula(
        Practice(words, t=length(t), joint=joint.kind.name),
        "I = 39.4 A/mm × t × joint × metal × position × thickness",
        "39.4 × {t} × {f} = {a} A",
        t=f"{t:.3f}",
        f=shown,
        a=amps_without_unit(amps),
    )
    return amps, reason


def get_acute_factor(joint: Joint) -> float:
    """How much more current an acute opening takes: 1 + 0.1 (1/sin θ − 1), θ the angle between the
    members. Estimate.
    """
    if not joint.kind.has("inner"):
        return 1.0
    return 1 + ACUTE_SHARE * (1 / math.sin(math.radians(joint.angle_deg)) - 1)


def need_reasons(joint: Joint, section: Section, need: CurrentModel) -> list[Reason]:
    """What the need rests on besides the bench rule, as it stands at this joint."""
    reasons: list[Reason] = [
        Estimate(
            "arms",
            "Heat leaves through every arm, as in a plate {h} thick.",
            h=length(section.h_mm),
        )
    ]
    first, second = joint.pair
    if first.thermal != second.thermal:
        words = "Dissimilar metals: calculated with the mean of their heat properties."
        reasons.append(Estimate("mixed-pair-thermal", words))
    if section.reckoned_mm > THICK_FROM_MM:
        words = "Above {t} the current grows more slowly than the thickness."
        reasons.append(Estimate("current-thick", words, t=length(THICK_FROM_MM)))
    if section.third_arm > 1:
        words = "The third member also removes heat: {f} times the heat of two members."
        reasons.append(Estimate("arms", words, f=f"{section.third_arm:.2f}"))
    if need.melt < 1:
        words = (
            "A braze does not melt the sheet. It needs {p} % of the current, for a sheet at {t} °C."
        )
        reasons.append(
            Estimate("braze-current", words, p=f"{100 * need.melt:.0f}", t=f"{BRAZE_C:.0f}")
        )
    if get_acute_factor(joint) > 1.005:
        words = "At {a}° more metal lies close to the arc: {p} % more current."
        share = 100 * (get_acute_factor(joint) - 1)
        reasons.append(Estimate("acute-current", words, a=f"{joint.angle_deg:g}", p=f"{share:.0f}"))
    if section.unlike:
        words = (
            "Different thicknesses: the current is for {t}. The thicker side counts up "
            "to twice the thinner."
        )
        reasons.append(Practice(words, t=length(section.reckoned_mm)))
    if not joint.position.has("level"):
        name = joint.position.name.capitalize()
        reasons.append(Practice("{name}: {note}", name=name, note=joint.position.note))
    return reasons


def is_braze(rod: str | None) -> bool:
    """Whether a rod brazes: it does not melt the sheet."""
    return rod is not None and catalogue.load_rods()[rod].has("braze")
