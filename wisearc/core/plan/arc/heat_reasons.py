"""The reasons of the heat: heat input, hot width, pool of a pulse, limits."""

from __future__ import annotations

from msgspec.structs import replace

from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.heat import (
    ARC_VOLTAGE_V,
    HOT_BAND_C,
    SENSITISING_C,
    heat_input_kj_mm,
    load_line_v,
)
from ...physics.heat_in_time import Pool
from ...physics.peak_profile import PeakProfile
from ...quantities import Quantity, amps_without_unit, heat, length, size, speed, temperature
from ...reasons import (
    Estimate,
    Practice,
    Published,
    Reason,
    WithFormula,
)
from ..shielding.back import Back
from .pulse import Pulse

SMALL_TUBE_MM = 25.0
# Cooling of a duplex weld, °C.
COOLING_C = (1200.0, 800.0)


def explain_heat_input(inputs: tuple[float, float], amps: float, v: float) -> list[Reason]:
    """Return the reasons of the heat input, by three standards.

    Args:
        inputs: Heat input, and with the arc efficiency, kJ/mm.
        amps: Mean current, A.
        v: Travel speed, mm/s.
    """
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


def explain_field(
    section: Section, power: float, v: float, profile: PeakProfile, tails: tuple[float, float]
) -> list[Reason]:
    """Return the reasons of the heat-tint width and of the hot seam behind the arc.

    Args:
        section: The section.
        power: Net power, W.
        v: Travel speed, mm/s.
        profile: Peak temperatures beside the seam.
        tails: Length of the seam above 450 °C and above 600 °C, mm.
    """
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


def explain_pool(pool: Pool | None, pulse: Pulse) -> list[Reason]:
    """Return the pool of a slow pulse, at the end of the peak and before the next.

    Args:
        pool: The pool, or None without a slow pulse.
        pulse: The pulse.
    """
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


def explain_limits(
    joint: Joint, section: Section, back: Back, interpass: float, cooling: float, wait: float
) -> list[Reason]:
    """Return the reasons of the interpass limit, the wait, bars, cooling and small parts.

    Args:
        joint: The joint.
        section: Its section.
        back: The root cover.
        interpass: Interpass limit, °C.
        cooling: Cooling of the seam from 1200 to 800 °C, s.
        wait: Wait of an adjoining seam, s.
    """
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
