"""Fit-up tolerance, and cleaning before the weld."""

import math
from typing import Annotated, ClassVar

from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import length
from ...reasons import Caution, Choice, Practice, Reason, Stop, WithFix, WithFormula
from ...schema.figures import Band, Figure
from ..filler_metal.filler import BARE_FIT_GAP_MM, Filler

GAP_SHARE = 0.25
MAX_GAP_MM = 0.8


class FitUp(Choice, frozen=True, kw_only=True):
    """The maximum gap, mm."""

    part: ClassVar[str] = "fit_up"
    answer: ClassVar[str] = "fit-up"
    label: ClassVar[str] = "Fit-up"
    max_gap_mm: Annotated[
        float,
        Figure(
            "Maximum gap",
            "length",
            3,
            compared="Maximum gap",
            band=Band("gap_mm", "Gap", low=0.0, high=1.0),
        ),
    ]

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        bare = self.max_gap_mm <= BARE_FIT_GAP_MM
        return (
            "gap to {max_gap_mm}",
            "no gap that a hair enters" if bare else "maximum anywhere on the seam",
        )


def choose_fit_up(joint: Joint, section: Section, filler: Filler) -> FitUp:
    """Judge gap and coating.

    Common practice.

    Args:
        joint: The joint.
        section: Its section.
        filler: The filler metal.
    """
    thin, bare = section.thin_mm, filler.rod is None
    maximum = BARE_FIT_GAP_MM if bare else max_gap_mm(thin)
    end = "and degrease." if bare else "degrease, and wipe the rod."
    before = "Deburr. Grind laser or plasma oxide back {a}, strip film back {b}, " + end
    return FitUp(
        max_gap_mm=maximum,
        why=(_explain_gap(bare, thin, maximum), Practice(before, a=length(1), b=length(25))),
        cautions=(*_check_gap(joint, thin, bare, maximum), *_check_coatings(joint)),
    )


_COATING_HAZARDS = {
    "zinc": "Zinc cracks stainless, and its fume is poisonous.",
    "paint": "Paint burns to poisonous fume, lead paint worst, and spoils the weld.",
    "plating": "Cadmium and chrome plate give poisonous fume and spoil the weld.",
}


def _check_gap(joint: Joint, thin: float, bare: bool, maximum: float) -> list[Caution]:
    if joint.gap_mm <= maximum + 1e-9:
        return []
    rod_bears = bare and joint.gap_mm <= max_gap_mm(thin)
    fix = "Refit the joint, or use the rod." if rod_bears else "Refit the joint."
    times = joint.gap_mm / maximum
    by = f"{100 * (times - 1):.0f} % above" if times < 2 else f"{times:.1f} times"
    text = (
        "Do not weld: the gap is {g}, {by} the maximum of {m}. The arc will burn "
        "through and draw in dirt from the root. {mend}"
    )
    item = Stop(
        "gap-too-wide", "fit-up", text, g=length(joint.gap_mm), m=length(maximum), by=by, mend=fix
    )
    held = f"{math.floor(maximum * 100) / 100:g} mm"
    return [WithFix(item, "The joint is refitted", gap=held)]


def _check_coatings(joint: Joint) -> list[Caution]:
    text = "Do not weld: member {n} still has {c} on it. {why} Strip both faces {d} back."
    return [
        WithFix(
            Stop(
                "coating",
                "fit-up",
                text,
                n=i,
                c=member.coating,
                d=length(25),
                why=_COATING_HAZARDS[member.coating],
            ),
            "The coating is stripped",
            **{f"{'abc'[i - 1]}.coating": "none"},
        )
        for i, member in enumerate(joint.members, 1)
        if member.coating != "none"
    ]


def max_gap_mm(thin: float) -> float:
    """Return the maximum gap with filler, mm.

    A quarter of the thickness (so at most 0.25 below 1 mm), and at most 0.8. Common practice.

    >>> max_gap_mm(1.6), max_gap_mm(0.8), max_gap_mm(4.0)
    (0.4, 0.2, 0.8)
    """
    return min(GAP_SHARE * thin, MAX_GAP_MM)


def _explain_gap(bare: bool, thin: float, maximum: float) -> Reason:
    m = length(maximum)
    if bare:
        return WithFormula(
            Practice("Without filler: no gap that a hair enters."), "gap ≤ 0.05 mm", "{m}", m=m
        )
    reason = Practice("With filler: a quarter of the thickness, here at most {m}.", m=m)
    return WithFormula(reason, "gap ≤ t / 4", "{t} / 4 = {m}", t=length(thin), m=m)
