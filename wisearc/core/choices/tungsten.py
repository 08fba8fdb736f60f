"""Which tungsten: type, size, grind."""

from __future__ import annotations

from dataclasses import dataclass

from .. import catalogue
from ..catalogue import Tip
from ..quantities import length
from ..reasons import Caution, Choice, Other, Reason, caution, practice, ruled, say, stop
from .pulse import Pulse
from .setting import Setting
from .so_far import SoFar

DEFAULT_TYPE = "lanthanated-2"
SMALLEST_TIP_TO_A = 15.0
NEEDLE_ANGLE_DEG = 15.0
OFF_NEEDLE_FLAT_MM = 0.2


@dataclass(frozen=True, kw_only=True)
class Tungsten(Choice):
    """Type, diameter mm, included angle °, tip flat mm."""

    type: catalogue.TungstenType
    diameter_mm: float
    included_angle_deg: float
    tip_flat_mm: float


def choose(so_far: SoFar) -> Tungsten:
    """Choose the tungsten. Size and tip: AWS C5.5; type: common practice; sharpness: two schools."""
    joint = so_far.joint
    setting, pulse = so_far.get(Setting), so_far.get(Pulse)
    steady = pulse.average_a if pulse.pulsed else setting.machine_a
    peak = pulse.peak_a if pulse.pulsed else setting.machine_a
    tip, fits = tip_for(steady, peak, joint.pin("tungsten_mm"))
    kind = catalogue.tungsten_types()[joint.pin("tungsten_type") or DEFAULT_TYPE]
    angle, flat = tip.included_angle_deg, tip.tip_flat_mm
    low, high = catalogue.rod_capacity_a()[tip.diameter_mm]
    why = [
        _size_reason(tip, steady, peak, pulse.pulsed),
        practice(
            "The rod of {d} itself carries about {a} to {b} A; it is the tip that limits.",
            d=length(tip.diameter_mm),
            a=low,
            b=high,
        ),
    ]
    if joint.tip_school == "needle":
        angle, flat = NEEDLE_ANGLE_DEG, 0.0
        why.append(
            practice("Needle-sharp by the bench's contrary school: a pinpoint arc that starts clean; shorter life.")
        )
    elif so_far.section.thin_mm < 1.0:
        flat = min(flat, OFF_NEEDLE_FLAT_MM)
        why.append(
            practice(
                "Below {t} just off the needle, a flat of {f}, so that the arc does not drill.",
                t=length(1.0),
                f=length(flat),
            )
        )
    angle = joint.pin("included_angle_deg") or angle
    why.append(practice("{name}, {colour}: {note}", name=kind.name, colour=kind.colour, note=kind.note))
    why.append(practice("Grind lengthwise on a wheel kept for tungsten; regrind after any touch."))
    return Tungsten(
        type=kind, diameter_mm=tip.diameter_mm, included_angle_deg=angle, tip_flat_mm=flat, why=tuple(why),
        others=tuple(_others(joint.tip_school, kind.key)), cautions=tuple(_cautions(tip, kind.key, steady, peak, fits)),
    )  # fmt: skip


def tip_for(steady: float, peak: float, diameter_mm: float | None = None) -> tuple[Tip, bool]:
    """The smallest tip of 1.6, 2.4, 3.2 mm that carries steady and peak; 1.0 only to 15 A. AWS C5.5.

    Parameters: currents A; diameter_mm, pinned, limits the rows. Returns the tip and whether it carries them.
    """
    rows = [t for t in catalogue.tips() if diameter_mm in (None, t.diameter_mm)]
    if diameter_mm is None and max(steady, peak) > SMALLEST_TIP_TO_A:
        rows = [t for t in rows if t.diameter_mm > 1.0]
    for tip in rows:
        if tip.steady_a[1] >= steady and tip.pulsed_a[1] >= peak:
            return tip, True
    return rows[-1], False


def _size_reason(tip: Tip, steady: float, peak: float, pulsed: bool) -> Reason:
    words = (
        "{d} at {a}° carries {s} A steady and peaks of {p} A; asked are {x} and {y}."
        if pulsed
        else "{d} at {a}° carries {s} A steady; the machine is set to {x}."
    )
    figures = {
        "d": length(tip.diameter_mm), "a": f"{tip.included_angle_deg:g}", "s": f"{tip.steady_a[1]:g}", "p": f"{tip.pulsed_a[1]:g}",
        "x": f"{steady:.0f}", "y": f"{peak:.0f}",
    }  # fmt: skip
    rule = "smallest tip with steady most ≥ steady asked and pulsed most ≥ peak; 1.0 mm only to 15 A"
    return ruled(
        Reason(say(words, **figures), "aws-c5.5", "published"),
        rule,
        "{s} ≥ {x} A and {p} ≥ {y} A: {d}, {a}°",
        **figures,
    )


def _others(school: str, kind: str) -> list[Other]:
    others = []
    if school == "table":
        others.append(
            Other(
                say("needle-sharp"),
                say(
                    "A pinpoint arc, say many at the bench; the table says sharper is wider, softer and shallower, and wears sooner."
                ),
                "common-practice",
                "common-practice",
                {"tip_school": "needle"},
                school="tip",
            )
        )
    else:
        others.append(
            Other(
                say("by the table"),
                say("Blunter is tighter, deeper and lasts."),
                "aws-c5.5",
                "published",
                {"tip_school": "table"},
                school="tip",
            )
        )
    for row in catalogue.tungsten_types().values():
        if row.key != kind:
            others.append(
                Other(
                    say("{n} ({c})", n=row.name, c=row.colour),
                    say(row.note),
                    row.source,
                    "published",
                    {"pins.tungsten_type": row.key},
                )
            )
    return others


def _cautions(tip: Tip, kind: str, steady: float, peak: float, fits: bool) -> list[Caution]:
    found: list[Caution] = []
    if not fits:
        found.append(
            stop(
                "peak-too-high",
                "tungsten",
                "{s} A with peaks of {p} A is more than a {d} tip carries: it melts into the pool. A bigger tungsten, or less current.",
                s=f"{steady:.0f}",
                p=f"{peak:.0f}",
                d=length(tip.diameter_mm),
            )
        )
    elif steady < tip.steady_a[0]:
        found.append(
            caution(
                "tungsten-too-big",
                "tungsten",
                "{s} A is under the {low} A where a {d} tip runs steady: the arc wanders. A smaller tungsten.",
                s=f"{steady:.0f}",
                low=f"{tip.steady_a[0]:g}",
                d=length(tip.diameter_mm),
            )
        )
    if kind == "thoriated-2":
        found.append(
            caution(
                "thoria",
                "tungsten",
                "Grinding dust of thoriated tungsten is radioactive: wet or extracted wheel, mask, bag the dust. Lanthanated does the same work without it.",
            )
        )
    return found
