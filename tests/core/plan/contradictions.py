"""What contradicts a plan: facts and phrases, figures that must agree, and subjects of cautions."""

import collections
import re
from collections.abc import Callable
from functools import cache

from tests.samples import codes
from wisearc.core import catalogue
from wisearc.core.joint.joint import Joint
from wisearc.core.physics.fillet import fillet_dilution, max_leg_mm
from wisearc.core.plan.plan import Plan
from wisearc.core.plan.preparation.technique import can_pickle

Check = Callable[[Joint, Plan], bool]


def _stops_at_filler(joint: Joint, made: Plan) -> bool:
    return any(c.level == "stop" and c.at in ("filler", "weld_metal") for c in made.cautions)


# Facts of a plan, and the phrases that contradict them: common practice, no source.
PAIRS: dict[str, tuple[Check, str]] = {
    "a stop of the weld metal": (
        _stops_at_filler,
        r"is normal|can be bent|holds while|within the accuracy",
    ),
    "no bars": (
        lambda j, p: not p.back.barred,
        r"(remove|keep|move|wipe|leave|turn) the bars\b",
    ),
    "no rod": (
        lambda j, p: p.filler.rod is None and not j.kind.has("stud"),
        r"\bfeed (well|a full|a leg|the)\b|add the rod|wipe the rod|the rod tip\b",
    ),
    "a purge": (lambda j, p: p.back.purged, r"leave it open|the back is open"),
    "no pulse": (lambda j, p: not p.pulse.pulsed, r"(each|every) peak|the background is"),
    "no pedal": (lambda j, p: not j.remote, r"\b(full )?pedal\b"),
    "a flat seam": (
        lambda j, p: j.position.key == "flat",
        r"overhead|vertical|molten metal falls",
    ),
    "a metal that paste attacks": (
        lambda j, p: not can_pickle(j),
        r"(?<!no )\bpickl(e|ing)",
    ),
    "food contact": (lambda j, p: j.service == "food", r"\bpaint|copper sulphate|oil the"),
    "two sides of one thickness": (
        lambda j, p: p.section.thick_mm <= 1.05 * p.section.thin_mm,
        r"\b(thick|thin)(er)? side\b",
    ),
    "no stainless side": (
        lambda j, p: p.section.stainless_sides == 0,
        r"stainless|tint|chromium|to straw",
    ),
    "no steel side": (lambda j, p: p.section.carbon_sides == 0, r"arc on the steel|the steel side"),
    "sheet": (lambda j, p: j.kind.forms == "sheet", r"sealed tube|strength of the tube"),
    "a grade named as the better one": (
        lambda j, p: all(m.key in ("439", "321", "304L", "316L") for m in j.metals),
        r"use 439, a stabilised",
    ),
}
_RATINGS = {1.0: 80.0, 1.6: 150.0, 2.4: 250.0, 3.2: 400.0}


CONTRADICTIONS: dict[str, Check] = {
    "a tack is within machine and tungsten": lambda j, p: (
        p.tacks.current_a <= 200 and p.tacks.current_a <= 1.3 * _RATINGS[p.tungsten.diameter_mm]
    ),
    "what is set for a tack gives it": lambda j, p: p.tacks.dial_a >= p.tacks.current_a - 0.51,
    "the setting gives what the arc carries": lambda j, p: (
        p.slopes.machine_a
        >= max(
            p.pulse.average_a, 0.999 * p.current.steady_a if not p.pulse.pulsed else p.pulse.peak_a
        )
        - 0.1
    ),
    "the dial is the setting": lambda j, p: (
        p.slopes.dial_a == round(p.slopes.machine_a)
        or abs(p.slopes.dial_a - p.slopes.machine_a) <= 0.5
    ),
    "the mean is the pulse's": lambda j, p: p.slopes.mean_a == p.pulse.average_a,
    "the gas covers the glow": lambda j, p: (
        p.gas.postflow_s
        >= max(6.0 if p.section.stainless_sides else 5.0, p.gas.postflow_glow_s) - 0.06
    ),
    "bars only where they reach and may chill": lambda j, p: (
        not p.back.barred
        or j.back != "auto"
        or not (j.kind.has("closed_back") or j.any_metal("no_chill"))
    ),
    "bars come in lengths": lambda j, p: (
        p.back.barred == (p.back.bar_lengths > 0)
        and (not p.back.barred or p.back.bar_from_seam_mm >= p.travel.pool_width_mm / 2)
    ),
    "the purge keeps air out, ten volumes first": lambda j, p: (
        not p.back.purged
        or (
            p.back.purge.weld_flow_l_min >= p.back.purge.leak_flow_l_min
            and abs(
                p.back.purge.before_s
                - max(60, 600 * p.back.purge.volume_l / p.back.purge.preflow_l_min)
            )
            <= max(1, 0.02 * p.back.purge.before_s)
        )
    ),
    "ten volumes are enough": lambda j, p: (
        not p.back.purged or p.back.purge.minutes_mixed <= p.back.purge.minutes_volumes
    ),
    "no rod, no deposit": lambda j, p: (
        (p.filler.rod is None)
        == (p.filler.deposit_mm2 == 0 and p.filler.diameter_mm is None and p.filler.leg_mm is None)
    ),
    "leg and throat are the rod's": lambda j, p: (
        p.technique.leg_mm == p.filler.leg_mm
        and (p.filler.leg_mm is None or abs(p.technique.throat_mm - 0.7 * p.filler.leg_mm) < 0.011)
    ),
    "the line says what is under the band": lambda j, p: (
        p.weld_metal.ferrite_pct is None
        or p.weld_metal.chromium_pct < 10.5
        or (p.weld_metal.ferrite_pct < 2.9) <= ("ferrite" in p.weld_metal.state)
    ),
    "fed to what the weld metal stands, as far as a hand can": lambda j, p: (
        p.weld_metal.greatest_dilution is None
        or j.leg is not None
        or p.weld_metal.dilution
        <= max(
            p.weld_metal.greatest_dilution,
            fillet_dilution(max_leg_mm(p.section.thin_mm), p.section.thin_mm)
            if j.kind.deposit == "fillet"
            else j.kind.least_dilution,
        )
        + 2e-3
    ),
    "no school hotter than a no pulse": lambda j, p: (
        not p.pulse.pulsed or p.pulse.average_a <= 1.001 * p.current.steady_a
    ),
    "no steel rod meets stainless": lambda j, p: (
        p.section.stainless_sides == 0
        or p.filler.rod is None
        or catalogue.load_rods()[p.filler.rod].kind != "carbon"
    ),
    "heat takes no rod that turns brittle": lambda j, p: (
        j.service != "hot"
        or p.filler.rod is None
        or not catalogue.load_rods()[p.filler.rod].has("brittle_hot")
        or "service-unmet" in codes(p)
    ),
    "stick-out is sound or told": lambda j, p: (
        p.torch.stickout_mm <= p.torch.stickout_limit_mm + 0.01
        or bool(codes(p) & {"stickout-caution", "stickout-too-long"})
    ),
    "no slow pulse on what takes no chill": lambda j, p: (
        not j.any_metal("no_chill") or p.pulse.school == "none"
    ),
    "down is bare and thin, or told": lambda j, p: (
        not j.position.has("down")
        or (p.filler.rod is None and p.section.thin_mm <= 1.5) != ("vertical-down" in codes(p))
    ),
    "the torch bears the mean, or is told of": lambda j, p: (
        p.pulse.average_a <= 120.5 or "torch-overrun" in codes(p)
    ),
    "the tip bears the arc": lambda j, p: (
        "tip-overrun" not in codes(p) and "peak-too-high" not in codes(p)
    ),
    "clean-up for what holds liquid": lambda j, p: (
        j.service not in ("wet", "food")
        or p.section.stainless_sides == 0
        or any("citric" in r.sentence.text() for r in p.after)
    ),
    "a caution is not met already": lambda j, p: (
        not any(
            (c.sets.get("filler") == p.filler.rod and p.filler.rod)
            or c.sets.get("back") == p.back.cover
            for c in p.cautions
        )
    ),
    "no code twice at one answer": lambda j, p: (
        max(collections.Counter((c.code, c.at, c.sentence.text()) for c in p.cautions).values())
        == 1
    ),
    "agreement is said within a tenth": lambda j, p: (
        ("they agree" in p.current.why[0].sentence.text())
        == (abs(p.current.heat_flow_a / (p.current.steady_a or 1) - 1) <= 0.1)
        or abs(abs(p.current.heat_flow_a / p.current.steady_a - 1) - 0.1) < 0.01
    ),
}
# a caution of this subject could come up in these; every other in any plan
SUBJECTS: dict[str, Callable[[Joint], bool]] = {
    **dict.fromkeys(("service-unmet", "brittle-hot", "long-heat"), lambda j: j.service == "hot"),
    **dict.fromkeys(("sensitises", "crevice"), lambda j: j.service in ("wet", "food")),
    **dict.fromkeys(
        ("chill-on-duplex", "duplex-heat-low", "duplex-needs-filler"),
        lambda j: j.any_metal("duplex"),
    ),
    **dict.fromkeys(("cover-short", "back-tints", "flux-stays"), lambda j: j.finish == "show"),
}
# Cautions that no key of a joint fixes: another torch or machine.


def list_sentences(made: Plan) -> list[str]:
    """Return every sentence that a plan shows: the aim, cautions, reasons, steps after welding."""
    return [
        f"Aim {made.technique.aim}.",
        *(c.sentence.text() for c in made.cautions),
        *(r.sentence.text() for choice in made.choices for r in choice.why),
        *(r.sentence.text() for r in made.after),
    ]


@cache
def find_aims(text: str) -> tuple[str, ...]:
    """Return the sides at which a text aims the arc. Plans share most of their texts."""
    return tuple(re.findall(r"\b[Aa]im (?:in |the arc )?(?:at|to) the (thick|thin|middle)", text))


@cache
def list_contradicted(text: str) -> frozenset[str]:
    """Return the facts of `PAIRS` that a text contradicts."""
    return frozenset(
        name for name, (_, phrase) in PAIRS.items() if re.search(phrase, text, re.IGNORECASE)
    )
