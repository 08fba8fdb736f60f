"""The heat of the weld: heat input, hot width, glowing tail, mean temperature of a small part."""

from typing import Annotated, ClassVar

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
    Field,
    glow_after_stop_s,
    tails_mm,
    wait_below_s,
)
from ...physics.heat_in_time import Pool, find_pool
from ...reasons import (
    Choice,
)
from ...schema.figures import Figure
from ..shielding.back import Back
from .heat_cautions import check_heat
from .heat_reasons import COOLING_C, explain_field, explain_heat_input, explain_limits, explain_pool
from .plan_field import build_heat_field, build_plan_profile
from .pulse import Pulse, build_pulse_train
from .slow_pulse import build_sheet
from .travel import Travel

FULLY_AUSTENITIC_INTERPASS_C = 100.0
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
            *explain_heat_input(inputs, amps, v),
            *explain_field(section, power, v, profile, (tail, sensitised)),
            *explain_pool(pool, pulse),
            *explain_limits(joint, section, back, interpass, cooling, wait),
        ),
        cautions=tuple(check_heat(joint, section, travel, cooling, mean, interpass, back.barred)),
    )


def _find_pulsed_pool(section: Section, travel: Travel, pulse: Pulse) -> Pool | None:
    """Return the pool of a pulse that it follows, or None for a steady or fast one."""
    train = build_pulse_train(pulse)
    if train.is_steady:
        return None
    return find_pool(build_sheet(section), train, pulse.peak_a, travel.speed_mm_s)


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
