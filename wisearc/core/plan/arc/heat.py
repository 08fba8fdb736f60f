"""The heat of the weld: heat input, hot width, glowing tail, mean temperature of a small part."""

import math
from typing import Annotated, ClassVar

from msgspec.structs import replace

from ... import catalogue
from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.heat import (
    AMBIENT_C,
    ARC_VOLTAGE_V,
    GLOW_C,
    HOT_BAND_C,
    SENSITISING_C,
    cooling_time_s,
    heat_input_en_kj_mm,
    heat_input_kj_mm,
    load_line_v,
    net_power_w,
    part_rise_k,
)
from ...physics.heat_field import (
    COOLED_FACES_W_MM2K,
    TAPER_S,
    Field,
    face_loss_1_s,
    find_inset_mm,
    glow_after_stop_s,
    tails_mm,
    wait_below_s,
    wall_distance_mm,
)
from ...physics.heat_in_time import Pool, find_pool
from ...physics.peak_profile import PeakProfile, build_peak_profile
from ...quantities import Quantity, amps_without_unit, heat, length, size, speed, temperature
from ...reasons import (
    Care,
    Caution,
    Choice,
    Estimate,
    Note,
    Practice,
    Published,
    Reason,
    WithFix,
    WithFormula,
)
from ...schema.figures import Figure
from ...schema.json_types import JsonObject
from ..shielding.back import Back
from .pulse import Pulse, build_pulse_train
from .slow_pulse import build_sheet
from .travel import Travel

HOT_PART_C = 150.0
FULLY_AUSTENITIC_INTERPASS_C = 100.0
# Cooling of a duplex weld from 1200 to 800 °C: good above the second value, a caution below the
# first.
COOLING_C = (1200.0, 800.0)
COOLING_S = (2.0, 4.0)
_MARGIN = 1.02
SMALL_TUBE_MM = 25.0
# The saved curve: number of points, past the hot width and the widest cover.
CURVE_POINTS = 97
CURVE_BANDS, MIN_CURVE_LENGTH_MM = 1.5, 24.0


class HeatResult(Choice, frozen=True, kw_only=True):
    """The heat of the weld.

    It has the heat input kJ/mm in two forms, hot width and tail mm, glow s, cooling from 1200 to
    800 °C s, interpass temperature °C, mean of a small part °C, pool of a slow pulse mm, and the
    drawn curve of peak temperatures °C by distance from the pool edge.
    """

    part: ClassVar[str] = "heat"
    answer: ClassVar[str] = "heat"
    label: ClassVar[str] = "Heat"
    arc_voltage_v: Annotated[float, Figure("Arc voltage", "plain", positive=True)]
    high_voltage_v: Annotated[float, Figure("By the load line", "plain", 2)]
    heat_input_kj_mm: Annotated[
        float, Figure("Heat input", "heat", 9, positive=True, compared="Heat input")
    ]
    heat_input_en_kj_mm: Annotated[float, Figure("Heat input by EN 1011-1", "heat", 9)]
    hot_band_mm: Annotated[
        float, Figure("Heat-tint width", "size", 1, positive=True, compared="Heat-tint width")
    ]
    tail_mm: Annotated[float, Figure("Red-heat length", "size", 1, compared="Red-heat length")]
    glow_end_s: Annotated[float, Figure("Red heat behind the arc", "seconds", 1)]
    glow_after_stop_s: Annotated[float, Figure("Red heat after the stop", "seconds", 1)]
    cooling_s: Annotated[float | None, Figure("Cooling from 1200 to 800 °C", "seconds", 2)]
    interpass_c: Annotated[float, Figure("Interpass", "temperature")]
    interpass_wait_s: Annotated[float | None, Figure("Wait to the interpass limit", "seconds", 1)]
    part_mean_c: Annotated[float | None, Figure("Mean temperature of the part", "temperature", 0)]
    pool_peak_mm: Annotated[float | None, Figure("Pool at the end of the peak", "size", 2)]
    pool_length_mm: Annotated[float | None, Figure("Pool length at the end of the peak", "size", 2)]
    pool_between_mm: Annotated[float | None, Figure("Pool between peaks", "size", 2)]
    freezes_between: Annotated[bool | None, Figure("Pool freezes between peaks")]
    hot_c: Annotated[float, Figure("Hot above", "temperature", positive=True)]
    curve_step_mm: Annotated[float, Figure("Step of the curve", "length", 4, positive=True)]
    curve_c: Annotated[
        tuple[float, ...], Figure("Peak temperatures from the edge of the pool", "temperature", 0)
    ]

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        part = "; the part reaches {part_mean_c}" if self.part_mean_c is not None else ""
        return (
            "{heat_input_kj_mm}",
            "above {hot_c} over {hot_band_mm}; next run below {interpass_c}" + part,
        )


def calculate_heat(
    joint: Joint, section: Section, back: Back, travel: Travel, pulse: Pulse
) -> HeatResult:
    """Calculate the heat.

    Args:
        joint: The joint.
        section: Its section.
        back: The root cover.
        travel: The travel speed.
        pulse: The pulse.

    References:
        Heat input: ASME IX, EN 1011-1. Width: Adams 1958. Field: Rosenthal 1941. Bars: estimate.
    """
    amps, v, h = pulse.average_a, travel.speed_mm_s, section.h_mm
    power = net_power_w(ARC_VOLTAGE_V, amps)
    field = build_heat_field(section, back, travel, pulse)
    profile = build_plan_profile(section, back, power, v, travel.pool_width_mm)
    band = travel.pool_width_mm + 2 * profile.find_distance_mm(HOT_BAND_C)
    tail, glow, sensitised = tails_mm(field, (HOT_BAND_C, GLOW_C, SENSITISING_C))
    inputs = heat_input_kj_mm(ARC_VOLTAGE_V, amps, v), heat_input_en_kj_mm(ARC_VOLTAGE_V, amps, v)
    cooling = cooling_time_s(section.heat, h, power, v, *COOLING_C)
    interpass, mean = _interpass_c(joint), _part_mean_c(joint, section, amps, travel.arc_time_s)
    wait = _wait_s(section, field, interpass, mean)
    pool = _find_pulsed_pool(section, travel, pulse)
    step = max(CURVE_BANDS * band, MIN_CURVE_LENGTH_MM) / (CURVE_POINTS - 1)
    return HeatResult(
        arc_voltage_v=ARC_VOLTAGE_V,
        high_voltage_v=load_line_v(amps),
        heat_input_kj_mm=inputs[0],
        heat_input_en_kj_mm=inputs[1],
        hot_band_mm=band,
        tail_mm=tail,
        glow_end_s=glow / v,
        glow_after_stop_s=glow_after_stop_s(field, GLOW_C, glow),
        cooling_s=cooling,
        interpass_c=interpass,
        interpass_wait_s=wait,
        part_mean_c=mean,
        pool_peak_mm=None if pool is None else pool.width_mm,
        pool_length_mm=None if pool is None else pool.length_mm,
        pool_between_mm=None if pool is None else pool.between_mm,
        freezes_between=None if pool is None else pool.freezes,
        hot_c=HOT_BAND_C,
        curve_step_mm=step,
        curve_c=tuple(profile.calculate_c(i * step) for i in range(CURVE_POINTS)),
        why=(
            *_explain_heat_input(inputs, amps, v),
            *_explain_field(section, power, v, profile, (tail, sensitised)),
            *_explain_pool(pool, pulse),
            *_explain_limits(joint, section, back, interpass, cooling, wait),
        ),
        cautions=tuple(_check_heat(joint, section, travel, cooling, mean, interpass, back.barred)),
    )


def _find_pulsed_pool(section: Section, travel: Travel, pulse: Pulse) -> Pool | None:
    """Return the pool of a pulse that it follows, or None for a steady or fast one."""
    train = build_pulse_train(pulse)
    if train.is_steady:
        return None
    return find_pool(build_sheet(section), train, pulse.peak_a, travel.speed_mm_s)


def _explain_pool(pool: Pool | None, pulse: Pulse) -> list[Reason]:
    """Return the pool of a slow pulse, at the end of the peak and before the next."""
    if pool is None:
        return []
    between = (
        "It freezes before the next peak."
        if pool.freezes
        else "It is still {b} wide before the next peak."
    )
    text = "At the end of a peak the pool is {w} wide and {l} long. " + between
    figures = {"w": size(pool.width_mm), "l": size(pool.length_mm), "b": size(pool.between_mm)}
    return [
        WithFormula(
            Estimate("heat-in-time", text, **figures),
            "T − T0 = ∫ q · exp(−r²/(4aτ + 2σ²)) / (ρ c h π (4aτ + 2σ²)) dτ, σ = 0.8 mm",
            "{p} A over {i} A, {r} per second: {w} × {l}",
            p=amps_without_unit(pulse.peak_a),
            i=amps_without_unit(pulse.background_a or 0.0),
            r=f"{pulse.rate_pps or 0.0:.2g}",
            w=size(pool.width_mm),
            l=size(pool.length_mm),
        )
    ]


def get_part_mass_g(joint: JsonObject) -> float | None:
    """Return the mass of the part in the data of a joint, g, or None.

    Args:
        joint: The joint of a new or saved plan.
    """
    mass = joint.get("part_mass_g")
    return float(mass) if isinstance(mass, int | float) and mass else None


def build_heat_field(section: Section, back: Back, travel: Travel, pulse: Pulse) -> Field:
    """Return the heat field of a new or saved plan.

    Args:
        section: The section.
        back: The root cover.
        travel: The travel speed.
        pulse: The pulse.
    """
    power = net_power_w(ARC_VOLTAGE_V, pulse.average_a)
    loss = face_loss_1_s(section.heat.rho_c, section.reckoned_mm, COOLED_FACES_W_MM2K)
    at_edge = section.round_mm is None
    return Field(
        power,
        travel.speed_mm_s,
        section.h_mm,
        section.heat.k,
        section.heat.a,
        _find_cold_wall(section, back),
        loss,
        find_inset_mm(travel.pool_width_mm, section.length_mm) if at_edge else None,
        TAPER_S if at_edge else 0.0,
    )


def build_plan_profile(
    section: Section, back: Back, power_w: float, travel_mm_s: float, pool_mm: float
) -> PeakProfile:
    """Return the peak temperatures beside the seam of a new or saved plan.

    Args:
        section: The section.
        back: The root cover.
        power_w: Net power, W.
        travel_mm_s: Travel speed, mm/s.
        pool_mm: Pool width, mm.
    """
    wall = _find_cold_wall(section, back)
    return build_peak_profile(section.heat, section.h_mm, power_w, travel_mm_s, pool_mm, wall)


def calculate_over_600_s(section: Section, back: Back, travel: Travel, pulse: Pulse) -> float:
    """Return how long a place of the seam is above 600 °C, s, for a new or saved plan.

    Args:
        section: The section.
        back: The root cover.
        travel: The travel speed.
        pulse: The pulse.

    References:
        Rosenthal 1941. Bars: estimate.
    """
    (tail,) = tails_mm(build_heat_field(section, back, travel, pulse), (SENSITISING_C,))
    return tail / travel.speed_mm_s


def wait_s(
    plan_heat: HeatResult, section: Section, back: Back, travel: Travel, pulse: Pulse
) -> float:
    """Return the wait of a neighbouring seam, s.

    It is saved in the plan, or calculated for an older plan.

    Args:
        plan_heat: The heat of the plan.
        section: The section.
        back: The root cover.
        travel: The travel speed.
        pulse: The pulse.
    """
    if plan_heat.interpass_wait_s is not None:
        return plan_heat.interpass_wait_s
    return round(
        _wait_s(
            section,
            build_heat_field(section, back, travel, pulse),
            plan_heat.interpass_c,
            plan_heat.part_mean_c,
        ),
        1,
    )


def _wait_s(section: Section, field: Field, interpass: float, mean: float | None) -> float:
    return wait_below_s(
        field,
        interpass,
        None if section.all_round else section.length_mm,
        mean - AMBIENT_C if mean else 0.0,
    )


def _find_cold_wall(section: Section, back: Back) -> float | None:
    """Return the cold wall of chill bars, mm from the seam, or None.

    Estimate.
    """
    if not back.barred:
        return None
    return wall_distance_mm(
        back.bar_from_seam_mm, section.heat.k, section.h_mm, back.contact_w_mm2k
    )


def _interpass_c(joint: Joint) -> float:
    rows = [catalogue.load_thermals()[m.thermal].interpass_c for m in joint.pair]
    if any(m.has("fully_austenitic") for m in joint.pair):
        rows.append(FULLY_AUSTENITIC_INTERPASS_C)
    return min(rows)


def _part_mean_c(joint: Joint, section: Section, amps: float, arc_time_s: float) -> float | None:
    if joint.part_mass_g is None:
        return None
    return AMBIENT_C + part_rise_k(
        ARC_VOLTAGE_V, amps, arc_time_s, joint.part_mass_g, section.heat.c_part
    )


def _explain_heat_input(inputs: tuple[float, float], amps: float, v: float) -> list[Reason]:
    h, e, high = heat(inputs[0]), heat(inputs[1]), load_line_v(amps)
    upper = heat(heat_input_kj_mm(high, amps, v))
    return [
        WithFormula(
            Published("asme-ix-qw409", "Heat input {h}, from the mean current.", h=h),
            "heat input = 0.06 · V · I / travel speed (mm/min)",
            "0.06 × {v} × {i} / {t} = {h}",
            v=f"{ARC_VOLTAGE_V:g}",
            i=f"{amps:.1f}",
            t=f"{v * 60:.0f}",
            h=h,
        ),
        WithFormula(
            Published(
                "en-1011-1",
                "By the European standard {e}, with an arc efficiency of 0.6.",
                e=e,
            ),
            "heat input = 0.6 × 0.06 · V · I / travel speed",
            "0.6 × {h} = {e}",
            h=h,
            e=e,
        ),
        WithFormula(
            Published(
                "iec-60974-1",
                "At {v} V from the load line, the upper limit, it is {h}.",
                v=f"{high:.1f}",
                h=upper,
            ),
            "V = 10 + 0.04 I",
            "10 + 0.04 × {i} = {v} V",
            i=amps_without_unit(amps),
            v=f"{high:.1f}",
        ),
    ]


def _explain_field(
    section: Section, power: float, v: float, profile: PeakProfile, tails: tuple[float, float]
) -> list[Reason]:
    hot, q = temperature(HOT_BAND_C), f"{power:.0f}"

    def find_width(of: PeakProfile) -> Quantity:
        return size(2 * (of.half_mm + of.find_distance_mm(HOT_BAND_C)))

    open_sheet = find_width(replace(profile, wall_mm=None))
    bars: list[Reason] = []
    if profile.wall_mm is not None:
        text = "The bars reduce this width to {b}."
        bars = [Estimate("strip-between-bars", text, b=find_width(profile))]
    return [
        WithFormula(
            Published(
                "adams-1958",
                "The sheet exceeds {t} over a width of {b} across the seam.",
                t=hot,
                b=open_sheet,
            ),
            "1/(Tp−T0) = √(2πe) · ρc h v y / q + 1/(Tm−T0)",
            "q {q} W, h {h}: width {b}",
            q=q,
            h=length(section.h_mm),
            b=open_sheet,
        ),
        *bars,
        WithFormula(
            Published(
                "rosenthal-1941",
                "Behind the moving arc the seam is above {t} over {l}. A place is above {s} for "
                "{d} s.",
                t=hot,
                l=size(tails[0]),
                s=temperature(SENSITISING_C),
                d=f"{tails[1] / v:.1f}",
            ),
            "T − T0 = q/(2πkh) · exp(−vξ/2a) · K0(vr/2a)",
            "q {q} W, v {v}: {l}",
            q=q,
            v=speed(v),
            l=size(tails[0]),
        ),
    ]


def _explain_limits(
    joint: Joint, section: Section, back: Back, interpass: float, cooling: float, wait: float
) -> list[Reason]:
    text, t = "Start the next run only below {t}.", temperature(interpass)
    steel = section.stainless_sides == 0
    reasons: list[Reason] = [
        Estimate("interpass-steel", text, t=t) if steel else Published("usual-codes", text, t=t)
    ]
    waits = Estimate(
        "interpass-wait", "An adjoining seam waits about {s} s for that.", s=f"{wait:.0f}"
    )
    reasons.append(
        WithFormula(
            waits,
            "T − T0 = (q/v) / (h √(4π k ρc t)), less the effect of ends, bars and faces",
            "t = {s} s to {t}",
            s=f"{wait:.0f}",
            t=t,
        )
    )
    if back.barred:
        text = "The bars count as cold walls next to the seam and shorten the red heat."
        reasons.append(Estimate("strip-between-bars", text))
    if joint.which("no_chill"):
        text = "The weld cools from {a} to {b} in {s} s. Duplex needs at least 4 s."
        a, b = (temperature(c) for c in COOLING_C)
        reason = Estimate("cooling-time", text, a=a, b=b, s=f"{cooling:.1f}")
        rule = "t = q² / (4π k ρc v² h²) · (1/(800−T0)² − 1/(1200−T0)²)"
        reasons.append(
            WithFormula(reason, rule, "h {h}: {s} s", h=length(section.h_mm), s=f"{cooling:.1f}")
        )
    if joint.part_mass_g is not None:
        text = "A part of {m} g keeps all the heat of the run."
        reasons.append(Estimate("part-heating", text, m=Quantity(joint.part_mass_g, "plain")))
    diameters = [m.diameter_mm for m in joint.members if m.diameter_mm]
    if diameters and min(diameters) < SMALL_TUBE_MM:
        text = (
            "Small tube heats up as you weld. Use 10 % less current after half way and "
            "20 % less in the last quarter, or weld in halves with a wait."
        )
        reasons.append(Practice(text))
    return reasons


def _check_heat(
    joint: Joint,
    section: Section,
    travel: Travel,
    cooling: float,
    mean: float | None,
    interpass: float,
    barred: bool,
) -> list[Caution]:
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
