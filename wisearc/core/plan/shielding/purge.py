"""The back purge: volume, flows, time and vent.

Flows: common practice. Volume, vent and outflow: estimates.
"""

import math
from typing import Annotated

from msgspec import Struct

from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.purge import (
    HOSE_L,
    MIN_PURGE_S,
    calculate_mixing_minutes,
    gap_area_mm2,
    min_flow_l_min,
    vent_mm,
)
from ...quantities import Quantity, flow, length, temperature
from ...reasons import Care, Caution, Estimate, Note, Practice, Reason, WithFix, WithFormula
from ...schema.figures import Figure, Override
from ..filler_metal.service import LIQUID

WELD_L_MIN = 3.0
# Up to a bore in mm, the flow before welding in L/min.
BEFORE = ((25.0, 3.0), (50.0, 6.0), (math.inf, 10.0))
# The filling takes 1 to 10 minutes where 3 to 25 L/min allow it: common practice. Above the last
# value a diffuser keeps the argon from stirring the air.
WAIT_MIN, MAX_PREFLOW_L_MIN, DIFFUSER_L_MIN = 10.0, 25.0, 12.0
MAX_ARGON_L = 200.0
VOLUMES = 10.0
DAM_MM = 150.0
CHANNEL_MM = 50.0
CLOSING_L_MIN = 1.5
GROOVE_L_MIN, GROOVE_S = 2.0, 30.0
OFF_BELOW_C = 200.0
HOSE_CLEARING_S = 10.0
FOOD_PPM = 50.0
HAZARD = (
    "Argon gives no warning and stays in tubes, pits and tanks after the job. It "
    "suffocates. Never put your head in. A closed space needs an entry "
    "procedure, forced air and an oxygen alarm."
)


class Purge(Struct, frozen=True):
    """A purge, or argon in the groove of a bar.

    Volume with hose L (None in a groove), flow before and during welding L/min, minutes by volumes
    and to the target if mixed, wait s, target ppm, vent mm, minimum flow that keeps air out, flow
    at the end, volume of the hose L, planned minutes.
    """

    volume_l: Annotated[float | None, Figure("Purge volume", "volume", 3)]
    preflow_l_min: Annotated[float, Figure("Purge flow", "flow", positive=True)]
    weld_flow_l_min: Annotated[
        float,
        Figure(
            "Flow during the weld",
            "flow",
            positive=True,
            pin=Override("purge_l_min", 0.5, 30, label="Purge flow"),
        ),
    ]
    minutes_volumes: Annotated[float | None, Figure("Minutes for 10 volumes", "plain", 2)]
    minutes_mixed: Annotated[float | None, Figure("Minutes to the oxygen target", "plain", 2)]
    before_s: Annotated[float, Figure("Time before the arc", "duration", 0)]
    target_ppm: Annotated[float, Figure("Oxygen at the vent", "ppm", positive=True)]
    vent_mm: Annotated[float, Figure("Vent", "length", 1)]
    leak_flow_l_min: Annotated[float | None, Figure("Minimum that keeps air out", "flow", 2)]
    closing_flow_l_min: Annotated[float | None, Figure("Flow at closing", "flow")]
    hose_l: Annotated[float | None, Figure("Hose and fittings", "volume", 3)] = None
    minutes: Annotated[float | None, Figure("Planned minutes", "plain", 2)] = None


def build_purge(joint: Joint, section: Section) -> Purge:
    """Build the purge of a closed back.

    Args:
        joint: The joint.
        section: Its section.

    References:
        Flows, 10 volumes: common practice. Volume, mixing, vent, outflow: estimates.
    """
    volume = volume_l(joint, section)
    before = preflow_l_min(joint, volume)
    leak = leak_flow_l_min(joint, section)
    weld = joint.pins.get("purge_l_min", max(WELD_L_MIN, math.ceil(leak * 2) / 2))
    target = target_ppm(joint)
    by_volumes = VOLUMES * volume / before
    vent = vent_mm(max(before, weld))
    wait_s = max(MIN_PURGE_S, 60 * by_volumes)
    return Purge(
        volume_l=volume,
        preflow_l_min=before,
        weld_flow_l_min=weld,
        minutes_volumes=by_volumes,
        minutes_mixed=calculate_mixing_minutes(volume, before, target),
        before_s=wait_s,
        target_ppm=target,
        vent_mm=vent,
        leak_flow_l_min=leak,
        closing_flow_l_min=CLOSING_L_MIN,
        hose_l=HOSE_L,
        minutes=wait_s / 60,
    )


def build_groove_purge(joint: Joint) -> Purge:
    """Build the argon supply in the groove of a bar.

    Estimate.
    """
    weld = joint.pins.get("purge_l_min", GROOVE_L_MIN)
    return Purge(
        volume_l=None,
        preflow_l_min=GROOVE_L_MIN,
        weld_flow_l_min=weld,
        minutes_volumes=None,
        minutes_mixed=None,
        before_s=GROOVE_S,
        target_ppm=target_ppm(joint),
        vent_mm=0.0,
        leak_flow_l_min=0.0,
        closing_flow_l_min=weld,
    )


def bore_mm(joint: Joint) -> float:
    """Return the largest purged bore, mm: of the tubes behind the seam, or a channel for sheet.

    Estimate.
    """
    tubes = [m for m in joint.members if m.diameter_mm is not None]
    if not joint.kind.has("closed_back") or not tubes:
        return CHANNEL_MM
    return max((m.diameter_mm or 0.0) - 2 * m.thickness_mm for m in tubes)


def volume_l(joint: Joint, section: Section) -> float:
    """Return the purge volume with hose and fittings, L.

    The space is as entered, or else bore × dammed length, by default 150 mm on each side of the
    seam.

    Args:
        joint: The joint.
        section: Its section.
    """
    if joint.purge_volume_l is not None:
        return joint.purge_volume_l + HOSE_L
    length_mm = 2 * DAM_MM if joint.kind.has("closed_back") else section.length_mm
    closed = joint.purge_length.mm if joint.purge_length is not None else length_mm
    return math.pi * bore_mm(joint) ** 2 / 4 * closed * 1e-6 + HOSE_L


def preflow_l_min(joint: Joint, volume: float) -> float:
    """Return the flow before welding, L/min.

    It starts at 3 up to a bore of 25 mm, 6 to 50 and 10 above. A larger volume has a flow that
    fills it ten times in 10 minutes, at most 25 L/min.

    Args:
        joint: The joint.
        volume: Purge volume, L.

    References:
        Common practice.
    """
    in_time = math.ceil(2 * VOLUMES * volume / WAIT_MIN) / 2
    return min(MAX_PREFLOW_L_MIN, max(preflow_by_bore_l_min(bore_mm(joint)), in_time))


def preflow_by_bore_l_min(bore: float) -> float:
    """Return the flow before welding for a bore in mm, L/min. Common practice."""
    return next(q for maximum, q in BEFORE if bore <= maximum)


def target_ppm(joint: Joint) -> float:
    """Return the target oxygen at the vent, ppm.

    It is as entered, 50 for show and food, 100 for wet, or 500. AWS D18, from memory.
    """
    if joint.purge_target_ppm is not None:
        return joint.purge_target_ppm
    if joint.service == "food":
        return FOOD_PPM
    return 50.0 if joint.finish == "show" else 100.0 if joint.service in LIQUID else 500.0


def leak_flow_l_min(joint: Joint, section: Section) -> float:
    """Return the flow that keeps air out of the gap, L/min: Q = u·A, u = 0.17/t m/s, at least 0.1.

    A is the gap along the seam, at most 300 mm, because a longer seam is taped progressively.

    Args:
        joint: The joint.
        section: Its section.

    References:
        Estimate.
    """
    return min_flow_l_min(gap_area_mm2(joint.gap_mm, section.length_mm), section.thin_mm, 0.0)


def purge_reasons(joint: Joint, section: Section, purge: Purge) -> list[Reason]:
    """Return the reasons for a purge with their figures.

    Args:
        joint: The joint.
        section: Its section.
        purge: The purge.
    """
    v, q = f"{purge.volume_l:.2f}", flow(purge.preflow_l_min)
    by_volumes, mixed = (
        Quantity(minutes or 0.0, "number")
        for minutes in (purge.minutes_volumes, purge.minutes_mixed)
    )
    ppm = f"{purge.target_ppm:g}"
    first = WithFormula(
        Practice(
            (
                "Blow the hose through for {hose} s. Then {q} for {planned} minutes: 10 volumes of "
                "{v} L with hose and fittings, at least a minute. Feed at the bottom, vent at the "
                "top, and seal the seam ahead of the arc."
            ),
            hose=f"{HOSE_CLEARING_S:g}",
            q=q,
            planned=Quantity(purge.minutes or 0.0, "number"),
            v=v,
        ),
        (
            "3 L/min up to a bore of 25 mm, 6 up to 50, 10 above, more for a filling in 10 min, at "
            "most 25; time = 10 V / Q, at least 1 min"
        ),
        "10 × {v} L / {q} = {m} min",
        v=v,
        q=q,
        m=by_volumes,
    )
    second = WithFormula(
        Estimate(
            "purge-mixed",
            "With full mixing, {ppm} ppm remain after {m} minutes. Measure at the vent.",
            ppm=ppm,
            m=mixed,
        ),
        "time = V / Q · ln(209 500 / ppm)",
        "{v} L / {q} · ln(209 500 / {ppm}) = {m} min",
        v=v,
        q=q,
        m=mixed,
        ppm=ppm,
    )
    run = (
        "Then {w}, from before the tacks until the seam is below {t}. Before you "
        "close the last of the seam, reduce to {low} with the vent open."
    )
    figures = {
        "w": flow(purge.weld_flow_l_min),
        "t": temperature(OFF_BELOW_C),
        "low": flow(purge.closing_flow_l_min or 0.0),
    }
    vent = WithFormula(
        Estimate(
            "purge-vent",
            "A vent of at least {d} keeps the pressure below 100 Pa.",
            d=length(purge.vent_mm),
        ),
        "v = √(2 · 100 · 0.36 / 1.66) = 6.6 m/s",
        "{q} at 6.6 m/s: {d}",
        q=flow(max(purge.preflow_l_min, purge.weld_flow_l_min)),
        d=length(purge.vent_mm),
    )
    reasons = [first, second, Practice(run, **figures), vent, _explain_space(joint, section)]
    if purge.preflow_l_min > DIFFUSER_L_MIN:
        text = "Above {q} use a diffuser. A jet stirs the air instead of pushing it out."
        reasons.append(Practice(text, q=flow(DIFFUSER_L_MIN)))
    if joint.service == "food":
        text = "Food service: an oxygen meter at the vent must read {ppm} ppm or less."
        reasons.append(Practice(text, ppm=f"{FOOD_PPM:g}"))
    if any(joint.any_metal(trait) for trait in ("duplex", "ferritic", "hardens")):
        reasons.append(Practice("Use plain argon. Hydrogen in the gas cracks this metal."))
    if joint.gap_mm > 0:
        text = "{q} through the gap keeps air out."
        reasons.append(Estimate("purge-outflow", text, q=flow(purge.leak_flow_l_min or 0.0)))
    return reasons


def _explain_space(joint: Joint, section: Section) -> Reason:
    """Return the reason for the purged space."""
    if joint.purge_volume_l is not None:
        return Practice("Entered purge volume: {v} L.", v=f"{joint.purge_volume_l:g}")
    if joint.purge_length is not None:
        text = "Dammed over {l}: caps, foil, plugs or paper dams shorten a long tube."
        return Practice(text, l=length(joint.purge_length.mm))
    if joint.kind.has("closed_back"):
        text = (
            "No dammed length is entered. The plan assumes soluble-paper dams {d} to "
            "each side of the seam."
        )
        return Estimate("purge-volume", text, d=length(DAM_MM))
    text = "No purge volume is entered. The plan assumes a channel {d} across along the seam."
    return Estimate("purge-volume", text, d=length(CHANNEL_MM))


def purge_cautions(joint: Joint, purge: Purge) -> list[Caution]:
    """Return the hazards and problems of the backing argon.

    Args:
        joint: The joint.
        purge: The purge.
    """
    vent = (
        "A closed space with flow on and no vent blows out the pool. Keep the vent open, at least "
        "{vent} and as wide as the feed."
    )
    cautions: list[Caution] = [
        Note("sealed-vessel", "back", vent, vent=length(purge.vent_mm)),
        Note("closed-space-argon", "back", HAZARD),
    ]
    if purge.weld_flow_l_min < (purge.leak_flow_l_min or 0.0) - 1e-9:
        text = "Air enters through this opening. The root oxidises. Use {need} or close the gap."
        item = Care("purge-outflow", "back", text, need=flow(purge.leak_flow_l_min or 0.0))
        release = {"pins.purge_l_min": None} if "purge_l_min" in joint.pins else {"gap": "0 mm"}
        cautions.append(
            WithFix(
                item,
                "Use the calculated flow" if "purge_l_min" in joint.pins else "Close the gap",
                **release,
            )
        )
    minutes, argon = purge.minutes or 0.0, (purge.minutes or 0.0) * purge.preflow_l_min
    if minutes > WAIT_MIN + 1e-9 or argon > MAX_ARGON_L:
        text = (
            "This purge needs {m} min and {l} of argon. Fit dams or plugs close to the seam, or "
            "shield the back locally."
        )
        item = Care(
            "purge-long", "back", text, m=f"{minutes:.0f}", l=Quantity(round(argon), "litres")
        )
        entered = [k for k in ("purge_length", "purge_volume_l") if getattr(joint, k) is not None]
        if entered and joint.kind.has("closed_back"):
            keys = dict.fromkeys(entered)
            cautions.append(WithFix(item, "Dam it close to the seam", **keys))
        else:
            cautions.append(item)
    return cautions
