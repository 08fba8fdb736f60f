"""The weld metal of a joint: composition, maximum dilution, and the reasons that show both."""

from functools import lru_cache
from typing import Annotated, ClassVar

from msgspec import Struct

from ... import catalogue
from ...catalogue.rows import Metal, Rod
from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.chemistry import (
    ALLOWED_FERRITE_PCT,
    CRACKING_RATIO,
    ROOM_C,
    STAINLESS_CR_PCT,
    Analysis,
    calculate_cr_eq,
    calculate_ni_eq,
    judge_analysis,
    mix_weld_metal,
)
from ...physics.chemistry import WeldMetal as Reckoned
from ...quantities import temperature
from ...reasons import Choice, Estimate, Published, Reason, WithFormula
from ...schema.figures import Figure
from .feeding import (
    SOFT_C_PCT,
    Feed,
    Limits,
    find_limits,
    is_steel_thicker,
    list_shares,
    plan_feed,
)

# This margin to the limit, with the arc towards one side, is sufficient for a welder.
ROOM = 0.05
# A dilution that meets the limit on paper can exceed it by this amount.
NEGLIGIBLE_OVER = 5e-3


class WeldMetal(Choice, frozen=True, kw_only=True):
    """The weld metal of the chosen rod.

    Dilution and its maximum, equivalents, ferrite and chromium %, martensite start °C, pitting
    number, the position of the rod in the diagram, and the state in the answer ("": acceptable).
    """

    part: ClassVar[str] = "weld_metal"
    answer: ClassVar[str] = "filler"
    dilution: Annotated[float, Figure("Dilution", "plain", 4)]
    greatest_dilution: Annotated[float | None, Figure("Maximum dilution", "plain", 3)]
    leaning_dilution: Annotated[
        float | None, Figure("Maximum dilution, arc to one side", "plain", 3)
    ]
    cr_eq: Annotated[float, Figure("Chromium equivalent", "plain", 2)]
    ni_eq: Annotated[float, Figure("Nickel equivalent", "plain", 2)]
    ferrite_pct: Annotated[float | None, Figure("Ferrite", "ferrite", 1, compared="Ferrite")]
    solidification_ratio: Annotated[float | None, Figure("Solidification ratio", "plain", 3)]
    martensite_start_c: Annotated[
        float | None, Figure("Martensite start", "temperature", 0, signed=True)
    ]
    pren: Annotated[float, Figure("Pitting number", "number", 1, compared="Pitting number")]
    chromium_pct: Annotated[float, Figure("Chromium", "ferrite", 2)]
    not_reckoned: Annotated[tuple[str, ...], Figure("Not calculated")]
    region: Annotated[str, Figure("From the constitution diagram")]
    state: Annotated[str, Figure("State")]
    rod_cr_eq: Annotated[float | None, Figure("Chromium equivalent of the rod", "plain", 2)]
    rod_ni_eq: Annotated[float | None, Figure("Nickel equivalent of the rod", "plain", 2)]

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        return "", self.state


class DilutionEstimate(Struct, frozen=True):
    """The weld metal as fed.

    Nominal shares first, then the other judged shares, the feed and its limits.
    """

    metal: Reckoned
    spread: tuple[Reckoned, ...]
    feed: Feed
    limits: Limits

    @property
    def dilution(self) -> float:
        """Return the share of melted sheet."""
        return self.feed.dilution

    @property
    def over(self) -> float:
        """Return the excess of the dilution over its maximum in the design case, or 0."""
        return (
            max(0.0, self.dilution - self.limits.design - NEGLIGIBLE_OVER)
            if self.limits.design is not None
            else 0.0
        )


def calculate_weld_metal(joint: Joint, section: Section, rod_key: str | None) -> WeldMetal:
    """Calculate the weld metal of the chosen rod.

    Dilution by joint: an estimate. Formulas published.

    Args:
        joint: The joint.
        section: Its section.
        rod_key: The rod, or None for autogenous.
    """
    rod = catalogue.load_rods()[rod_key] if rod_key else None
    estimate = calculate_dilution_limits(joint, section, rod)
    m = estimate.metal
    melted = rod is not None and not rod.has("braze")
    return WeldMetal(
        dilution=estimate.dilution,
        greatest_dilution=estimate.limits.design,
        leaning_dilution=estimate.limits.leaning,
        cr_eq=m.cr_eq,
        ni_eq=m.ni_eq,
        ferrite_pct=m.ferrite_pct,
        solidification_ratio=m.solidification_ratio,
        martensite_start_c=m.martensite_start_c,
        pren=m.pren,
        chromium_pct=m.chromium_pct,
        not_reckoned=m.not_reckoned,
        region=m.region,
        state=_describe_state(joint, rod, estimate),
        rod_cr_eq=calculate_cr_eq(rod.analysis) if rod and melted else None,
        rod_ni_eq=calculate_ni_eq(rod.analysis) if rod and melted else None,
        why=tuple(
            explain_weld_metal(
                joint, rod, m, estimate.dilution, estimate.limits, len(estimate.spread) > 1
            )
        ),
    )


def calculate_dilution_limits(joint: Joint, section: Section, rod: Rod | None) -> DilutionEstimate:
    """Calculate the weld metal of a rod at its feed.

    Dissimilar members of different thickness are judged at several shares, with the design case
    first (`list_shares`).

    Args:
        joint: The joint.
        section: Its section.
        rod: The rod, or None for autogenous.

    References:
        Dilution by joint: an estimate.
    """
    limits = find_limits(joint, section, rod)
    feed = plan_feed(joint, section, limits) if rod is not None else Feed(0.0, 1.0, None, 0.0)
    first, second = joint.pair
    shares = list_shares(joint, section)
    forms = (joint.members[0].form, joint.members[1].form)
    spread = _calculate_spread(first, second, forms, rod, round(feed.dilution, 6), shares)
    return DilutionEstimate(spread[0], spread, feed, limits)


@lru_cache(maxsize=4096)
def _calculate_spread(
    first: Metal,
    second: Metal,
    forms: tuple[str, str],
    rod: Rod | None,
    d: float,
    shares: tuple[float, ...],
) -> tuple[Reckoned, ...]:
    analysis: Analysis | None = rod.analysis if rod else None
    sides = (first.analysis_as(forms[0]), second.analysis_as(forms[1]))
    design = _find_design(first, second, rod)
    return tuple(
        judge_analysis(mix_weld_metal(analysis, sides, d, share), design) for share in shares
    )


def _find_design(first: Metal, second: Metal, rod: Rod | None) -> str:
    """Return the special design of the weld metal, or "" if the austenitic formulas apply."""
    if rod is not None and rod.has("nickel"):
        return "nickel"
    if (rod is not None and rod.has("duplex")) or (first.has("duplex") and second.has("duplex")):
        return "duplex"
    return "martensitic" if (first if rod is None else rod).has("martensitic") else ""


def _describe_state(joint: Joint, rod: Rod | None, estimate: DilutionEstimate) -> str:
    """Return the state of an imperfect weld metal in a few words."""
    m = estimate.metal
    if (rod is not None and rod.has("braze")) or not any(s.stainless for s in joint.pair):
        return ""
    if m.chromium_pct < STAINLESS_CR_PCT:
        return f"weld {m.chromium_pct:.1f} % chromium: not stainless"
    parts = []
    if m.ferrite_pct is not None and m.ferrite_pct < ALLOWED_FERRITE_PCT[0] - 0.05:
        fully = rod is not None and rod.has("fully_austenitic")
        parts.append(
            "no ferrite, by design"
            if fully
            else f"ferrite {m.ferrite_pct:.1f} %, below the minimum of 3 %"
        )
    if m.martensite_start_c is not None and m.martensite_start_c > ROOM_C:
        parts.append("hard martensite")
    elif "martensite" in m.region and estimate.limits.design is None:
        parts.append(
            "some soft martensite, normal here" if is_soft(joint, m) else f"{m.region} in the weld"
        )
    return "; ".join(parts)


def is_soft(joint: Joint, m: Reckoned) -> bool:
    """Return whether its martensite is soft: low in carbon, from ferritic sheet.

    Args:
        joint: The joint.
        m: The weld metal.
    """
    ferritic = joint.any_metal("ferritic") and all(metal.stainless for metal in joint.pair)
    return ferritic and m.analysis.get("C", 0.0) <= SOFT_C_PCT


def explain_weld_metal(
    joint: Joint, rod: Rod | None, metal: Reckoned, d: float, limits: Limits, worst: bool
) -> list[Reason]:
    """Return the reasons for the weld metal.

    Args:
        joint: The joint.
        rod: The rod, or None.
        metal: The weld metal.
        d: Dilution.
        limits: Its limits.
        worst: Whether other shares were judged.
    """
    if (rod is not None and rod.has("braze")) or not any(m.stainless for m in joint.pair):
        return []
    share = "all melted sheet" if rod is None else f"{d * 100:.0f} % melted sheet"
    text = "By calculation, {share}: chromium {cr} %, nickel {ni} %."
    figures = {"cr": f"{metal.chromium_pct:.1f}", "ni": f"{metal.analysis.get('Ni', 0.0):.1f}"}
    mixed = WithFormula(
        Estimate("dilution-by-joint", text, share=share, **figures),
        "mix = (1 − d) · rod + d · (fraction of each side)",
        "d = {d}; Creq {cr}, Nieq {ni}",
        d=f"{d:.2f}",
        cr=f"{metal.cr_eq:.2f}",
        ni=f"{metal.ni_eq:.2f}",
    )
    reasons = [
        mixed,
        *_explain_dilution(joint, d, limits),
        *_explain_ferrite(metal),
        *_explain_solidification(metal),
        *_explain_martensite(metal),
        _explain_pitting(metal),
    ]
    if worst:
        text = (
            "Different thicknesses: also calculated with more of either side, up to "
            "30/70 at twice the thickness. The worst case counts."
        )
        reasons.append(Estimate("worst-share", text))
    if metal.chromium_pct < STAINLESS_CR_PCT:
        reasons.append(
            Published(
                "en-10088", "Below {c} % chromium the metal is not stainless.", c=STAINLESS_CR_PCT
            )
        )
    return reasons


def _explain_dilution(joint: Joint, d: float, limits: Limits) -> list[Reason]:
    """Return the maximum dilution and its meaning at the torch."""
    if limits.even is None or limits.leaning is None or limits.design is None:
        return []
    if limits.even >= 1:
        return []
    figures = {
        "even": f"{100 * limits.even:.0f}",
        "leaning": f"{100 * limits.leaning:.0f}",
        "design": f"{100 * limits.design:.0f}",
    }
    if is_steel_thicker(joint):
        text = (
            "The thicker steel takes two thirds of the arc, so more of it melts. In that case "
            "the rod allows {design} % melted sheet"
        )
    else:
        text = (
            "It allows {even} % melted sheet, and {leaning} % with the arc leaning to the worse "
            "side"
        )
    limit = limits.design if is_steel_thicker(joint) else limits.leaning
    text += (
        ". Feed well and do not dwell."
        if d > limit - ROOM
        else ". That leaves a margin for manual feeding."
    )
    return [Estimate("greatest-dilution", text, **figures)]


def _explain_ferrite(metal: Reckoned) -> list[Reason]:
    f = metal.ferrite_pct
    if f is None:
        return []
    low, high = ALLOWED_FERRITE_PCT
    state = (
        f"below the minimum of {low:g} %"
        if f < low
        else f"within {low:g} to {high:g} %"
        if f <= high
        else f"above {high:g} %"
    )
    return [
        WithFormula(
            Published("seferian-1959", "Ferrite {f} %, {state}.", f=f"{f:.1f}", state=state),
            "δ = 3 (Creq − 0.93 Nieq − 6.7)",
            "3 ({cr} − 0.93 × {ni} − 6.7) = {f} %",
            cr=f"{metal.cr_eq:.2f}",
            ni=f"{metal.ni_eq:.2f}",
            f=f"{f:.1f}",
        )
    ]


def _explain_solidification(metal: Reckoned) -> list[Reason]:
    r = metal.solidification_ratio
    if r is None:
        return []
    prone = "austenite first, prone to hot cracking"
    mode = prone if r < CRACKING_RATIO else "ferrite first, sound" if r <= 2 else "ferrite only"
    reason = Published(
        "hammar-svensson-1979",
        "The weld solidifies as {mode} (ratio {r}).",
        mode=mode,
        r=f"{r:.2f}",
    )
    return [WithFormula(reason, "Cr′/Ni′, boundary 1.5 (Suutala)", "{r}", r=f"{r:.2f}")]


def _explain_martensite(metal: Reckoned) -> list[Reason]:
    start = metal.martensite_start_c
    if start is None:
        return []
    text = (
        "Martensite starts at {t}, above room temperature. The weld is hard."
        if start > ROOM_C
        else (
            "Martensite would start at {t}, well below room temperature."
            if start < -40
            else "Martensite starts at {t}, near room temperature."
        )
    )
    formula = "Ms(°F) = 75(14.6−Cr) + 110(8.9−Ni) + 60(1.33−Mn) + 50(0.47−Si) + 3000(0.068−(C+N))"
    t = temperature(start)
    return [WithFormula(Published("eichelman-hull-1953", text, t=t), formula, "Ms = {t}", t=t)]


def _explain_pitting(metal: Reckoned) -> Reason:
    figures = {
        "cr": f"{metal.chromium_pct:.1f}",
        "mo": f"{metal.analysis.get('Mo', 0.0):.2f}",
        "n": f"{metal.analysis.get('N', 0.0):.3f}",
        "p": f"{metal.pren:.1f}",
    }
    reason = Published("pren", "Pitting number {p}.", p=figures["p"])
    return WithFormula(
        reason, "PREN = Cr + 3.3 Mo + 16 N", "{cr} + 3.3 × {mo} + 16 × {n} = {p}", **figures
    )
