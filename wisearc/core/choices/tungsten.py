"""Which tungsten: type, size, grind."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

from .. import catalogue
from ..catalogue.rows import Tip, TungstenType
from ..figures import ByHand, figure
from ..joint import Joint
from ..quantities import length
from ..reasons import Caution, Choice, Other, Reason, caution, instead, practice, published, ruled, say, stop
from ..section import Section
from .pulse import Pulse
from .setting import Setting

DEFAULT_TYPE = "lanthanated-2"
SMALLEST_TIP_MM, SMALLEST_TIP_TO_A = 1.0, 15.0
NEEDLE_ANGLE_DEG = 15.0
OFF_NEEDLE_BELOW_MM, OFF_NEEDLE_FLAT_MM = 1.0, 0.2


@dataclass(frozen=True, kw_only=True)
class Tungsten(Choice):
    """Type, its name and colour, diameter mm, included angle °, tip flat mm."""

    part: ClassVar[str] = "tungsten"
    answer: ClassVar[str] = "tungsten"
    label: ClassVar[str] = "Tungsten"
    type: str = figure("Type", pin=ByHand("tungsten_type", allowed=tuple(catalogue.tungsten_types())))
    type_name: str = figure("Tungsten")
    colour: str = figure("Colour")
    diameter_mm: float = figure("Diameter", "length", positive=True, pin=ByHand("tungsten_mm", allowed=(1.0, 1.6, 2.4, 3.2)))  # fmt: skip
    included_angle_deg: float = figure("Included angle", "degrees", positive=True, pin=ByHand("included_angle_deg", 8, 120))  # fmt: skip
    tip_flat_mm: float = figure("Tip flat", "length")

    def words(self) -> tuple[str, str]:
        flat = "flat {tip_flat_mm}" if self.tip_flat_mm else "no flat"
        return "{diameter_mm} {type_name}", "{colour}; {included_angle_deg}, " + flat


def choose_tungsten(joint: Joint, section: Section, setting: Setting, pulse: Pulse) -> Tungsten:
    """Choose the tungsten. Size and tip: AWS C5.5; type: common practice; sharpness: two schools."""
    steady = pulse.average_a if pulse.pulsed else setting.machine_a
    peak = pulse.peak_a if pulse.pulsed else setting.machine_a
    tip, fits = tip_for(steady, peak, joint.pinned("tungsten_mm", None))
    kind = catalogue.tungsten_types()[joint.pinned("tungsten_type", DEFAULT_TYPE)]
    angle, flat, sharpness = _grind(joint, section, tip)
    low, high = catalogue.rod_capacity_a()[tip.diameter_mm]
    words = "The rod of {d} itself carries about {a} to {b} A; it is the tip that limits."
    return Tungsten(
        type=kind.key, type_name=kind.name, colour=kind.colour, diameter_mm=tip.diameter_mm,
        included_angle_deg=joint.pinned("included_angle_deg", angle), tip_flat_mm=flat,
        why=(
            _size_reason(tip, steady, peak, pulse.pulsed), practice(words, d=length(tip.diameter_mm), a=low, b=high), *sharpness,
            practice("{name}, {colour}: {note}", name=kind.name, colour=kind.colour, note=kind.note),
            practice("Grind lengthwise on a wheel kept for tungsten; regrind after any touch."),
        ),
        others=(_other_school(joint.tip_school), *_other_types(kind)), cautions=tuple(_cautions(tip, kind, steady, peak, fits)),
    )  # fmt: skip


def tip_for(steady: float, peak: float, diameter_mm: float | None = None) -> tuple[Tip, bool]:
    """The smallest tip of 1.6, 2.4, 3.2 mm that carries steady and peak; 1.0 only to 15 A. AWS C5.5.

    Parameters: currents A; diameter_mm, pinned, limits the rows. Returns the tip and whether it carries them.
    """
    rows = [t for t in catalogue.tips() if diameter_mm in (None, t.diameter_mm)]
    if diameter_mm is None and max(steady, peak) > SMALLEST_TIP_TO_A:
        rows = [t for t in rows if t.diameter_mm > SMALLEST_TIP_MM]
    for tip in rows:
        if tip.steady_a[1] >= steady and tip.pulsed_a[1] >= peak:
            return tip, True
    return rows[-1], False


def _grind(joint: Joint, section: Section, tip: Tip) -> tuple[float, float, tuple[Reason, ...]]:
    """Included angle and flat by the joint's school, and why where it is not the table's."""
    if joint.tip_school == "needle":
        words = "Needle-sharp by the bench's contrary school: a pinpoint arc that starts clean; shorter life."
        return NEEDLE_ANGLE_DEG, 0.0, (practice(words),)
    if section.thin_mm >= OFF_NEEDLE_BELOW_MM:
        return tip.included_angle_deg, tip.tip_flat_mm, ()
    flat = min(tip.tip_flat_mm, OFF_NEEDLE_FLAT_MM)
    words = "Below {t} just off the needle, a flat of {f}, so that the arc does not drill."
    return tip.included_angle_deg, flat, (practice(words, t=length(OFF_NEEDLE_BELOW_MM), f=length(flat)),)


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
    return ruled(published("aws-c5.5", words, **figures), rule, "{s} ≥ {x} A and {p} ≥ {y} A: {d}, {a}°", **figures)


@lru_cache(maxsize=8)
def _other_school(school: str) -> Other:
    if school == "table":
        words = "A pinpoint arc, say many at the bench; the table says sharper is wider, softer and shallower, and wears sooner."
        return instead(say("needle-sharp"), {"tip_school": "needle"}, words, school="tip")
    words = "Blunter is tighter, deeper and lasts."
    return Other(say("by the table"), say(words), "aws-c5.5", "published", {"tip_school": "table"}, "tip")


@lru_cache(maxsize=16)
def _other_types(taken: TungstenType) -> tuple[Other, ...]:
    return tuple(
        Other(say("{n} ({c})", n=row.name, c=row.colour), say(row.note), row.source, "published", {"pins.tungsten_type": row.key})
        for row in catalogue.tungsten_types().values()
        if row is not taken
    )  # fmt: skip


def _cautions(tip: Tip, kind: TungstenType, steady: float, peak: float, fits: bool) -> list[Caution]:
    found: list[Caution] = []
    figures = {"s": f"{steady:.0f}", "p": f"{peak:.0f}", "low": f"{tip.steady_a[0]:g}", "d": length(tip.diameter_mm)}
    if not fits:
        words = "{s} A with peaks of {p} A is more than a {d} tip carries: it melts into the pool. A bigger tungsten, or less current."
        found.append(stop("peak-too-high", "tungsten", words, **figures))
    elif steady < tip.steady_a[0]:
        words = "{s} A is under the {low} A where a {d} tip runs steady: the arc wanders. A smaller tungsten."
        found.append(caution("tungsten-too-big", "tungsten", words, **figures))
    if kind.radioactive:
        usual = catalogue.tungsten_types()[DEFAULT_TYPE].name.split()[-1].capitalize()
        words = "Grinding dust of {name} tungsten is radioactive: wet or extracted wheel, mask, bag the dust. {usual} does the same work without it."
        found.append(caution("thoria", "tungsten", words, name=kind.name.split()[-1], usual=usual))
    return found
