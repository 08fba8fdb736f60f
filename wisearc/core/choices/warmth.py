"""How hot it gets: heat input, hot band, the tail that still glows, a small part's mean."""

from __future__ import annotations

from dataclasses import dataclass

from .. import catalogue
from ..heat import (
    AMBIENT_C,
    ARC_VOLTAGE_V,
    GLOW_C,
    HOT_BAND_C,
    distance_to_peak_mm,
    heat_input_en_kj_mm,
    heat_input_kj_mm,
    load_line_v,
    net_power_w,
    part_rise_k,
)
from ..heat_field import Field, glow_after_stop_s, tails_mm, wall_distance_mm
from ..quantities import heat, length, size, speed, temperature
from ..reasons import Caution, Choice, Reason, caution, estimate, practice, say
from .back import BAR_SETBACK_MM, CONTACT_W_MM2K, Back
from .pulse import Pulse
from .rhythm import Rhythm
from .so_far import SoFar

HOT_PART_C = 150.0
FULLY_AUSTENITIC_INTERPASS_C = 100.0
DUPLEX_KJ_MM = (0.5, 2.0)


@dataclass(frozen=True, kw_only=True)
class Warmth(Choice):
    """Heat input kJ/mm two ways, hot band and tail mm, glow s, interpass °C, mean of a small part °C."""

    arc_voltage_v: float
    high_voltage_v: float
    heat_input_kj_mm: float
    heat_input_en_kj_mm: float
    hot_band_mm: float
    tail_mm: float
    glow_end_s: float
    glow_after_stop_s: float
    interpass_c: float
    part_mean_c: float | None
    field: Field


def choose(so_far: SoFar) -> Warmth:
    """Reckon the heat. Heat input: ASME IX, EN 1011-1; band: Adams 1958; field: Rosenthal 1941; bars: estimate."""
    rhythm, pulse, section = so_far.get(Rhythm), so_far.get(Pulse), so_far.section
    power, v = net_power_w(ARC_VOLTAGE_V, pulse.average_a), rhythm.travel_mm_s
    field = Field(power, v, section.h_mm, section.heat.k, section.heat.a, _wall(so_far))
    beside = distance_to_peak_mm(section.heat, section.h_mm, power, v, HOT_BAND_C)
    band = rhythm.pool_width_mm + 2 * beside
    inputs = (
        heat_input_kj_mm(ARC_VOLTAGE_V, pulse.average_a, v),
        heat_input_en_kj_mm(ARC_VOLTAGE_V, pulse.average_a, v),
    )
    tail, glow = tails_mm(field, (HOT_BAND_C, GLOW_C))
    interpass = _interpass_c(so_far)
    mean = _part_mean_c(so_far, pulse.average_a, rhythm.arc_time_s)
    return Warmth(
        arc_voltage_v=ARC_VOLTAGE_V, high_voltage_v=load_line_v(pulse.average_a), heat_input_kj_mm=inputs[0],
        heat_input_en_kj_mm=inputs[1], hot_band_mm=band, tail_mm=tail,
        glow_end_s=glow / v, glow_after_stop_s=glow_after_stop_s(field, GLOW_C),
        interpass_c=interpass, part_mean_c=mean, field=field,
        why=_why(so_far, inputs, band, tail, interpass), cautions=tuple(_cautions(so_far, inputs[0], mean, interpass)),
    )  # fmt: skip


def _wall(so_far: SoFar) -> float | None:
    """The cold wall of chill bars, mm from the seam, or None. Estimate."""
    contact = CONTACT_W_MM2K.get(so_far.get(Back).cover)
    if contact is None:
        return None
    edge = so_far.get(Rhythm).pool_width_mm / 2 + BAR_SETBACK_MM
    return wall_distance_mm(edge, so_far.section.heat.k, so_far.section.h_mm, contact)


def _interpass_c(so_far: SoFar) -> float:
    rows = [catalogue.thermals()[m.thermal].interpass_c for m in so_far.joint.metals[:2]]
    if any(m.group == "fully-austenitic" for m in so_far.joint.metals[:2]):
        rows.append(FULLY_AUSTENITIC_INTERPASS_C)
    return min(rows)


def _part_mean_c(so_far: SoFar, amps: float, arc_time: float) -> float | None:
    mass = so_far.joint.part_mass_g
    if mass is None:
        return None
    return AMBIENT_C + part_rise_k(ARC_VOLTAGE_V, amps, arc_time, mass, so_far.section.heat.c_part)


def _why(
    so_far: SoFar, inputs: tuple[float, float], band: float, tail_long: float, interpass: float
) -> tuple[Reason, ...]:
    rhythm, pulse = so_far.get(Rhythm), so_far.get(Pulse)
    asme = Reason(
        say("Heat input {h}, of the mean current.", h=heat(inputs[0])),
        "asme-ix-qw409", "published", formula="heat input = 0.06 · V · I / travel (mm/min)",
        worked=say("0.06 × {v} × {i} / {t} = {h}", v=f"{ARC_VOLTAGE_V:g}", i=f"{pulse.average_a:.1f}", t=f"{rhythm.travel_mm_s * 60:.0f}", h=heat(inputs[0])),
    )  # fmt: skip
    adams = Reason(
        say("Over {t} the sheet is {b} wide across the seam.", t=temperature(HOT_BAND_C), b=size(band)),
        "adams-1958", "published", formula="1/(Tp−T0) = √(2πe) · ρc h v y / q + 1/(Tm−T0)",
        worked=say("q {q} W, h {h}: band {b}", q=f"{net_power_w(ARC_VOLTAGE_V, pulse.average_a):.0f}", h=length(so_far.section.h_mm), b=size(band)),
    )  # fmt: skip
    en = Reason(
        say("By the European standard {e}: the arc's efficiency of 0.6 counted in.", e=heat(inputs[1])), "en-1011-1", "published",
        "heat input = 0.6 × 0.06 · V · I / travel", say("0.6 × {h} = {e}", h=heat(inputs[0]), e=heat(inputs[1])),
    )  # fmt: skip
    high = load_line_v(pulse.average_a)
    upper = Reason(
        say("At {v} V of the load line, the upper figure, it would be {h}.", v=f"{high:.1f}", h=heat(heat_input_kj_mm(high, pulse.average_a, rhythm.travel_mm_s))),
        "iec-60974-1", "published", formula="V = 10 + 0.04 I", worked=say("10 + 0.04 × {i} = {v} V", i=f"{pulse.average_a:.0f}", v=f"{high:.1f}"),
    )  # fmt: skip
    tail = Reason(
        say("Behind the moving arc the seam is over {t} for {l}.", t=temperature(HOT_BAND_C), l=size(tail_long)), "rosenthal-1941", "published",
        "T − T0 = q/(2πkh) · exp(−vξ/2a) · K0(vr/2a)", say("q {q} W, v {v}: {l}", q=f"{net_power_w(ARC_VOLTAGE_V, pulse.average_a):.0f}", v=speed(rhythm.travel_mm_s), l=size(tail_long)),
    )  # fmt: skip
    said = "Next run only below {t} between runs."
    limit = Reason(say(said, t=temperature(interpass)), "usual-codes", "published")
    if so_far.section.stainless_sides == 0:
        limit = estimate("interpass-steel", said, t=temperature(interpass))
    reasons = [asme, en, upper, adams, tail, limit]
    if so_far.get(Back).barred:
        reasons.append(
            estimate(
                "strip-between-bars",
                "The bars are reckoned as cold walls beside the seam: the tail is shorter for them.",
            )
        )
    if so_far.joint.part_mass_g is not None:
        reasons.append(
            estimate(
                "part-heating", "A part of {m} g keeps all the heat of the run.", m=f"{so_far.joint.part_mass_g:g}"
            )
        )
    diameters = [m.diameter_mm for m in so_far.joint.members if m.diameter_mm]
    if diameters and min(diameters) < 25:
        reasons.append(
            practice(
                "Small tube heats up as you go: 10 % less after half way, 20 % less in the last quarter, or halves with a wait."
            )
        )
    return tuple(reasons)


def _cautions(so_far: SoFar, kj_mm: float, mean: float | None, interpass: float) -> list[Caution]:
    found: list[Caution] = []
    if mean is not None and mean > HOT_PART_C:
        share = (HOT_PART_C - AMBIENT_C) / (mean - AMBIENT_C)
        found.append(
            caution(
                "hot-part",
                "heat",
                "The part passes {h} mean after about {t} s of arc and ends at about {m}: stop there, wait until it is under {i}, and take less current for later runs; a part of a few tens of grams ends at about half.",
                h=temperature(HOT_PART_C),
                t=f"{share * so_far.get(Rhythm).arc_time_s:.0f}",
                m=temperature(mean),
                i=temperature(interpass),
            )
        )
    if "2205" in {m.key for m in so_far.joint.metals[:2]} and kj_mm < DUPLEX_KJ_MM[0]:
        found.append(
            caution(
                "duplex-heat-low",
                "heat",
                "2205 wants {a} to {b}, which thin sheet cannot give: its over-alloyed rod makes up for it.",
                a=heat(DUPLEX_KJ_MM[0]),
                b=heat(DUPLEX_KJ_MM[1]),
            )
        )
    return found
