"""The tungsten: type, size, grind."""

from functools import lru_cache
from typing import Annotated, ClassVar

from ... import catalogue
from ...catalogue.rows import Tip, TungstenType
from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import amps_without_unit, length, stock
from ...reasons import (
    Alternative,
    Care,
    Caution,
    Choice,
    Practice,
    Published,
    Reason,
    Sentence,
    WithFix,
    WithFormula,
)
from ...schema.figures import Figure, Override
from ..arc.pulse import Pulse
from ..preparation.tacks import Tacks
from .fit import DEFAULT_TYPE, Fit

NEEDLE_ANGLE_DEG = 15.0
OFF_NEEDLE_BELOW_MM, OFF_NEEDLE_FLAT_MM = 1.0, 0.2


class Tungsten(Choice, frozen=True, kw_only=True):
    """Tungsten type, name, colour, diameter mm, included angle °, tip flat mm."""

    part: ClassVar[str] = "tungsten"
    answer: ClassVar[str] = "tungsten"
    label: ClassVar[str] = "Tungsten"
    type: Annotated[
        str,
        Figure(
            "Type", pin=Override("tungsten_type", allowed=tuple(catalogue.load_tungsten_types()))
        ),
    ]
    type_name: Annotated[str, Figure("Tungsten")]
    colour: Annotated[str, Figure("Colour")]
    diameter_mm: Annotated[
        float,
        Figure(
            "Diameter",
            "stock",
            positive=True,
            pin=Override("tungsten_mm", allowed=(1.0, 1.6, 2.4, 3.2)),
        ),
    ]
    included_angle_deg: Annotated[
        float,
        Figure(
            "Included angle", "degrees", positive=True, pin=Override("included_angle_deg", 8, 120)
        ),
    ]
    tip_flat_mm: Annotated[float, Figure("Tip flat", "length")]

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        flat = "flat {tip_flat_mm}" if self.tip_flat_mm else "no flat"
        return "{diameter_mm} {type_name}", "{colour}; {included_angle_deg}, " + flat


def choose_tungsten(
    joint: Joint, section: Section, pulse: Pulse, tacks: Tacks, fit: Fit
) -> Tungsten:
    """Choose the tungsten for the mean current, and for the peak or a tack.

    Args:
        joint: The joint.
        section: Its section.
        pulse: The pulse.
        tacks: The tacks.
        fit: The torch parts.

    References:
        Size and tip: AWS C5.5. Type: common practice. Sharpness: two approaches.
    """
    steady, peak = pulse.average_a, max(pulse.peak_a, tacks.current_a)
    tip, kind = fit.tip, fit.type
    angle, flat, sharpness = _choose_grind(joint, section, tip)
    _, maximum = catalogue.rod_capacity_a()[tip.diameter_mm]
    text = "The shank of {d} carries about {b} A. The tip sets the lower limit."
    return Tungsten(
        type=kind.key,
        type_name=kind.name,
        colour=kind.colour,
        diameter_mm=tip.diameter_mm,
        included_angle_deg=joint.pins.get("included_angle_deg", angle),
        tip_flat_mm=flat,
        why=(
            _explain_size(tip, steady, peak),
            Practice(text, d=stock(tip.diameter_mm), b=f"{maximum:g}"),
            *sharpness,
            Practice(
                "{name}, {colour}: {note}", name=kind.name, colour=kind.colour, note=kind.note
            ),
            Practice("Grind lengthwise on a wheel kept for tungsten. Regrind after any touch."),
        ),
        others=(_list_other_approach(joint.tip_school), *_list_other_types(kind)),
        swaps=fit.instead_of_tungsten,
        cautions=tuple(_check_type(joint, kind)),
    )


def _choose_grind(
    joint: Joint, section: Section, tip: Tip
) -> tuple[float, float, tuple[Reason, ...]]:
    """Return included angle and flat for the approach, and the reason for a deviation."""
    if joint.tip_school == "needle":
        text = (
            "Needle-sharp, as many welders prefer: a pinpoint arc with clean starts, but "
            "a shorter life."
        )
        return NEEDLE_ANGLE_DEG, 0.0, (Practice(text),)
    if section.thin_mm >= OFF_NEEDLE_BELOW_MM:
        return tip.included_angle_deg, tip.tip_flat_mm, ()
    flat = min(tip.tip_flat_mm, OFF_NEEDLE_FLAT_MM)
    text = "Below {t} almost a needle, with a flat of {f}. The arc then does not drill."
    return (
        tip.included_angle_deg,
        flat,
        (Practice(text, t=length(OFF_NEEDLE_BELOW_MM), f=length(flat)),),
    )


def _explain_size(tip: Tip, steady: float, peak: float) -> Reason:
    text = (
        "{d} at {a}° carries {s} A, in peaks {p} A. Here the mean is {x} A, and "
        "peaks and tacks reach {y} A."
    )
    figures = {
        "d": stock(tip.diameter_mm),
        "a": f"{tip.included_angle_deg:g}",
        "s": f"{tip.steady_a[1]:g}",
        "p": f"{tip.pulsed_a[1]:g}",
        "x": amps_without_unit(steady),
        "y": amps_without_unit(peak),
    }
    rule = (
        "smallest tip whose unpulsed maximum ≥ mean current and pulsed maximum ≥ "
        "peak and tack current; 1.0 mm only to 15 A"
    )
    return WithFormula(
        Published("aws-c5.5", text, **figures),
        rule,
        "{s}, {p} A against {x}, {y} A: {d}, {a}°",
        **figures,
    )


@lru_cache(maxsize=8)
def _list_other_approach(approach: str) -> Alternative:
    if approach == "table":
        text = (
            "Many welders find that a needle gives a pinpoint arc. By the table a "
            "sharper tip makes a wider, softer and shallower arc, and wears sooner."
        )
        return Alternative(
            Sentence("needle-sharp"), Sentence(text), {"tip_school": "needle"}, "tip"
        )
    text = "A blunter tip makes a tighter and deeper arc, and lasts longer."
    return Alternative(
        Sentence("from the table"),
        Sentence(text),
        {"tip_school": "table"},
        "tip",
        "aws-c5.5",
        "published",
    )


@lru_cache(maxsize=16)
def _list_other_types(taken: TungstenType) -> tuple[Alternative, ...]:
    return tuple(
        Alternative(
            Sentence("{n} ({c})", n=row.name, c=row.colour),
            Sentence(row.note),
            {"pins.tungsten_type": row.key},
            source=row.source,
            mark="published",
        )
        for row in catalogue.load_tungsten_types().values()
        if row is not taken
    )


def _check_type(joint: Joint, kind: TungstenType) -> list[Caution]:
    if not kind.radioactive:
        return []
    usual = catalogue.load_tungsten_types()[DEFAULT_TYPE].name.split()[-1].capitalize()
    text = (
        "Dust from grinding {name} tungsten is radioactive. Inhaled dust harms the "
        "lungs. Use a wet or extracted wheel and a mask, and bag the dust. {usual} "
        "does the same work without it."
    )
    item = Care("thoria", "tungsten", text, name=kind.name.split()[-1], usual=usual)
    return [WithFix(item, f"Use {usual.lower()}", **{"pins.tungsten_type": None})]
