"""How close the joint must fit, and what must come off before."""

from __future__ import annotations

from dataclasses import dataclass

from ..quantities import length
from ..reasons import Caution, Choice, Reason, practice, ruled, say, stop
from .filler import BARE_FIT_GAP_MM, Filler
from .so_far import SoFar

GAP_SHARE = 0.25
MOST_GAP_MM = 0.8
MOST_GAP_THIN_MM = 0.25


@dataclass(frozen=True, kw_only=True)
class FitUp(Choice):
    """The widest gap that may be welded, mm."""

    max_gap_mm: float


def choose(so_far: SoFar) -> FitUp:
    """Judge gap and coating. Common practice."""
    joint, thin = so_far.joint, so_far.section.thin_mm
    bare = so_far.get(Filler).rod is None
    most = BARE_FIT_GAP_MM if bare else max_gap_mm(thin)
    cautions: list[Caution] = []
    if joint.gap_mm > most + 1e-9:
        mend = (
            "Refit, or use the rod."
            if bare and joint.gap_mm <= max_gap_mm(thin)
            else "Refit: time on fit-up is repaid at the torch."
        )
        cautions.append(
            stop(
                "gap-too-wide",
                "fit-up",
                "A gap of {g} is over the {m} that holds here: it blows through and pulls dirt from behind. {mend}",
                g=length(joint.gap_mm),
                m=length(most),
                mend=mend,
            )
        )
    for i, member in enumerate(joint.members):
        if member.coating != "none":
            cautions.append(
                stop(
                    "coating",
                    "fit-up",
                    "Member {n} has {c} on it: take it off both faces {d} back first. {why}",
                    n=i + 1,
                    c=member.coating,
                    d=length(25),
                    why=_COATING_HARM[member.coating],
                )
            )
    return FitUp(
        max_gap_mm=most,
        why=(
            _reason(bare, thin, most),
            practice(
                "Deburr; cut laser or plasma oxide back {a}; strip film {b}; degrease; wipe the rod.",
                a=length(1),
                b=length(25),
            ),
        ),
        cautions=tuple(cautions),
    )


_COATING_HARM = {
    "zinc": "Zinc cracks stainless and its fume poisons.",
    "paint": "Paint, lead paint worst, burns to poison and spoils the weld.",
    "plating": "Cadmium and chrome plate give poisonous fume and spoil the weld.",
}


def max_gap_mm(thin: float) -> float:
    """Widest gap with filler, mm: a quarter of the thickness, 0.25 below 1 mm, 0.8 anywhere. Common practice.

    >>> max_gap_mm(1.6), max_gap_mm(0.8), max_gap_mm(4.0)
    (0.4, 0.2, 0.8)
    """
    return min(GAP_SHARE * thin, MOST_GAP_THIN_MM if thin < 1 else MOST_GAP_MM)


def _reason(bare: bool, thin: float, most: float) -> Reason:
    if bare:
        return ruled(practice("Bare-fit: none that a hair enters."), "gap ≤ 0.05 mm", "{m}", m=length(most))
    return Reason(
        say("With filler a quarter of the thickness, {m} at most here.", m=length(most)), "common-practice", "common-practice",
        "gap ≤ t / 4", say("{t} / 4 = {m}", t=length(thin), m=length(most)),
    )  # fmt: skip
