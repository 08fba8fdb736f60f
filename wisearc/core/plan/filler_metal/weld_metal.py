"""The weld metal of a joint: composition, maximum dilution, and the reasons that show both."""

from functools import lru_cache
from typing import Annotated, ClassVar

from msgspec import Struct

from ... import catalogue
from ...catalogue.rows import Metal, Rod
from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.chemistry import (
    CRACKING_RATIO,
    ROOM_C,
    SOUND_FERRITE_PCT,
    STAINLESS_CR_PCT,
    Analysis,
    calculate_cr_eq,
    calculate_ni_eq,
    calculate_pren,
    judge_analysis,
    martensite_start_c,
    mix_weld_metal,
)
from ...physics.chemistry import WeldMetal as Reckoned
from ...quantities import temperature
from ...reasons import Care, Caution, Choice, Estimate, Note, Published, Reason, Stop, WithFormula
from ...schema.figures import Figure
from .feeding import DILUTION_SLACK, SOFT_C_PCT, Feed, Limits, find_limits, plan_feed
from .rod_rules import check_rod

# how far the shares of two sides go from half and half where one is twice the other and more
_MAX_SHARE_SHIFT = 0.2
# the diagram is good to about so much ferrite, so much nickel equivalent
FERRITE_SLACK_PCT = 4.0
PITTING_SLACK = 1.0
# a dilution solved to a thousandth may lie so much over
NEAR_C = 1.0
# so much under what it stands with the arc leaning leaves room for the hand
ROOM = 0.05


class WeldMetal(Choice, frozen=True, kw_only=True):
    """The weld metal of the chosen rod: dilution and the greatest it stands, equivalents, ferrite
    and chromium %, martensite start °C, pitting number; where the rod stands among chromium and
    nickel; the state that its answer says ("" : sound).
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

    def words(self) -> tuple[str, str]:
        return "", self.state


class Reckoning(Struct, frozen=True):
    """Weld metal as it is fed: nominal shares first, then the others that were judged; the feed and
    what it stands.
    """

    metal: Reckoned
    spread: tuple[Reckoned, ...]
    feed: Feed
    limits: Limits

    @property
    def dilution(self) -> float:
        """Share of melted sheet."""
        return self.feed.dilution

    @property
    def over(self) -> float:
        """By how much the dilution is over what the weld metal stands; 0 where it holds or nothing
        is to reckon.
        """
        return (
            max(0.0, self.dilution - self.limits.even - 1e-3)
            if self.limits.even is not None
            else 0.0
        )


def calculate_weld_metal(joint: Joint, section: Section, rod_key: str | None) -> WeldMetal:
    """Reckon the weld metal of the chosen rod (None: bare). Dilution by joint, an estimate;
    formulas published.
    """
    rod = catalogue.load_rods()[rod_key] if rod_key else None
    reckoning = calculate_dilution_limits(joint, section, rod)
    m = reckoning.metal
    melted = rod is not None and not rod.has("braze")
    return WeldMetal(
        dilution=reckoning.dilution,
        greatest_dilution=reckoning.limits.even,
        leaning_dilution=reckoning.limits.leaning,
        cr_eq=m.cr_eq,
        ni_eq=m.ni_eq,
        ferrite_pct=m.ferrite_pct,
        solidification_ratio=m.solidification_ratio,
        martensite_start_c=m.martensite_start_c,
        pren=m.pren,
        chromium_pct=m.chromium_pct,
        not_reckoned=m.not_reckoned,
        region=m.region,
        state=_describe_state(joint, rod, reckoning),
        rod_cr_eq=calculate_cr_eq(rod.analysis) if rod and melted else None,
        rod_ni_eq=calculate_ni_eq(rod.analysis) if rod and melted else None,
        why=tuple(
            explain_weld_metal(
                joint, rod, m, reckoning.dilution, reckoning.limits, len(reckoning.spread) > 1
            )
        ),
    )


def calculate_dilution_limits(joint: Joint, section: Section, rod: Rod | None) -> Reckoning:
    """Reckon the weld metal of a rod (None: bare) as it is fed here. Unlike thickness is judged at
    shares that go smoothly from half and half to 30/70 and 70/30 where one side is twice the other.
    Dilution by joint: an estimate.
    """
    limits = find_limits(joint, rod)
    feed = plan_feed(joint, section, limits) if rod is not None else Feed(0.0, 1.0, None, 0.0)
    first, second = joint.pair
    lean = round(_MAX_SHARE_SHIFT * min(1.0, section.ratio - 1), 4)
    shares = (0.5, 0.5 - lean, 0.5 + lean) if lean > 0 and first.family != second.family else (0.5,)
    forms = (joint.members[0].form, joint.members[1].form)
    spread = _calculate_spread(first, second, forms, rod, round(feed.dilution, 6), shares)
    return Reckoning(spread[0], spread, feed, limits)


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
    """What the weld metal is by its own design, "" where the formulas for austenitic weld metal
    hold.
    """
    if rod is not None and rod.has("nickel"):
        return "nickel"
    if (rod is not None and rod.has("duplex")) or (first.has("duplex") and second.has("duplex")):
        return "duplex"
    return "martensitic" if (first if rod is None else rod).has("martensitic") else ""


def _describe_state(joint: Joint, rod: Rod | None, reckoning: Reckoning) -> str:
    """What the answer itself says of a weld metal that is not wholly sound, in few words."""
    m = reckoning.metal
    if (rod is not None and rod.has("braze")) or not any(s.stainless for s in joint.pair):
        return ""
    if m.chromium_pct < STAINLESS_CR_PCT:
        return f"weld {m.chromium_pct:.1f} % chromium: not stainless"
    said = []
    if m.ferrite_pct is not None and m.ferrite_pct < SOUND_FERRITE_PCT[0] - 0.05:
        fully = rod is not None and rod.has("fully_austenitic")
        said.append(
            "no ferrite, by design"
            if fully
            else f"ferrite {m.ferrite_pct:.1f} %, below the minimum of 3 %"
        )
    if m.martensite_start_c is not None and m.martensite_start_c > ROOM_C:
        said.append("hard martensite")
    elif "martensite" in m.region and reckoning.limits.even is None:
        said.append(
            "some soft martensite, normal here" if _is_soft(joint, m) else f"{m.region} in the weld"
        )
    return "; ".join(said)


def judge(
    joint: Joint, section: Section, rod: Rod | None, reckoning: Reckoning
) -> tuple[Caution, ...]:
    """Every caution the weld metal and the rod bring here, once by code, the worst level kept."""
    found = [*check_rod(joint, section, rod)]
    for i, metal in enumerate(reckoning.spread):
        found += _check_metal(joint, section, rod, metal, reckoning, i > 0)
    kept: dict[str, Caution] = {}
    for item in found:
        kept.setdefault(item.code, item)
    return tuple(kept.values())


def _check_metal(
    joint: Joint,
    section: Section,
    rod: Rod | None,
    m: Reckoned,
    reckoning: Reckoning,
    leaning: bool,
) -> list[Caution]:
    """Cautions of one share. Parameters: m, the weld metal of that share; leaning, whether it is
    one of the other shares.
    """
    if rod is not None and rod.has("braze"):
        return [
            Note(
                "not-reckoned",
                "filler",
                "A braze does not melt the sheet, so its weld metal is not calculated.",
            )
        ]
    if section.stainless_sides == 0:
        return []
    found: list[Caution] = []
    if m.chromium_pct < STAINLESS_CR_PCT:
        words = (
            "Do not weld: the weld metal has {cr} % chromium, and stainless needs 10.5 "
            "%. The weld will rust. Use a stainless rod from the chart."
        )
        return [Stop("weld-metal-not-stainless", "filler", words, cr=f"{m.chromium_pct:.1f}")]
    beyond = reckoning.over > DILUTION_SLACK and not leaning
    solved = reckoning.limits.even is not None
    found += [
        *_check_martensite(joint, m, beyond, solved),
        *_check_cracking(rod, m, beyond, leaning),
    ]
    poorer = min(calculate_pren(analysis) for analysis in joint.analyses)
    if section.stainless_sides == 2 and m.pren < poorer - PITTING_SLACK:
        words = (
            "The weld has a pitting number of {w}, but the poorer sheet has {b}. The "
            "weld pits first. Use a rod with more alloy."
        )
        found.append(
            Care("pitting-below-base", "filler", words, w=f"{m.pren:.1f}", b=f"{poorer:.1f}")
        )
    return found + [
        Note("not-reckoned", "filler", "Not calculated: {what}.", what=text)
        for text in m.not_reckoned
    ]


def _is_soft(joint: Joint, m: Reckoned) -> bool:
    """Whether martensite in it is soft: low in carbon, from ferritic sheet."""
    ferritic = joint.any_metal("ferritic") and all(metal.stainless for metal in joint.pair)
    return ferritic and m.analysis.get("C", 0.0) <= SOFT_C_PCT


def _check_martensite(joint: Joint, m: Reckoned, beyond: bool, solved: bool) -> list[Caution]:
    """Hard weld metal: by its start where that is reckoned, or the edge was solved by it, else by
    the region; low-carbon ferritic sheet bears a little.
    """
    soft = _is_soft(joint, m)
    start = martensite_start_c(m.analysis) if solved and m.analysis else m.martensite_start_c
    if start is not None:
        if start <= ROOM_C + NEAR_C:
            return []
        level = Care if beyond and not soft else Note
        words = (
            "Martensite starts at {ms}, above room temperature. The weld hardens and can "
            "crack. Use a richer rod or more of it."
        )
        return [level("martensite", "filler", words, ms=temperature(start))]
    if "martensite" not in m.region:
        return []
    if soft:
        words = (
            "The weld of ferritic sheet contains soft, low-carbon martensite. This is "
            "normal, and the weld can be bent."
        )
        return [Note("martensite", "filler", words)]
    words = (
        "By the constitution diagram the weld is {region}. It is hard and can crack "
        "when bent. Use a richer rod or more of it."
    )
    return [Care("martensite", "filler", words, region=m.region)]


def _check_cracking(rod: Rod | None, m: Reckoned, beyond: bool, leaning: bool) -> list[Caution]:
    if rod is not None and rod.has("fully_austenitic"):
        words = (
            "This weld metal is fully austenitic. It can crack when hot. Keep the heat "
            "low, fill the craters and taper slowly."
        )
        return [Note("no-ferrite", "filler", words)]
    ferrite, ratio = m.ferrite_pct, m.solidification_ratio
    sound = SOUND_FERRITE_PCT[0]
    if ferrite is not None and ferrite < sound:
        raw = 3 * (m.cr_eq - 0.93 * m.ni_eq - 6.7)
        figures = {"f": f"{ferrite:.1f}"}
        if raw < sound - FERRITE_SLACK_PCT and beyond:
            words = (
                "The ferrite is {f} %, below the minimum of 3 %, and no rod feed raises it. "
                "The weld can crack when hot. Keep the heat low and fill the craters."
            )
            return [Care("hot-cracking", "filler", words, **figures)]
        if leaning:
            words = (
                "If the arc leans to the worse side, ferrite falls to {f} %. The weld can "
                "crack when hot. Keep the arc off that side, feed well and fill the craters."
            )
            return [Note("ferrite-low", "filler", words, **figures)]
        words = (
            "Ferrite is {f} %, below the minimum of 3 % but within the accuracy of the "
            "calculation. The weld can crack when hot. Feed well, keep the arc off the "
            "worse side and fill the craters."
        )
        return [Note("ferrite-low", "filler", words, **figures)]
    if ferrite is not None and ratio is not None and ratio < CRACKING_RATIO:
        words = (
            "The weld solidifies as austenite first (ratio {r}, below 1.5). It can crack "
            "when hot. Keep the heat low and fill the craters."
        )
        return [Note("hot-cracking", "filler", words, r=f"{ratio:.2f}")]
    return []


def explain_weld_metal(
    joint: Joint, rod: Rod | None, metal: Reckoned, d: float, limits: Limits, worst: bool
) -> list[Reason]:
    """Reasons that show what the weld metal comes to. Parameters: d, dilution; limits, what it
    stands; worst, judged at other shares too.
    """
    if (rod is not None and rod.has("braze")) or not any(m.stainless for m in joint.pair):
        return []
    share = "all melted sheet" if rod is None else f"{d * 100:.0f} % melted sheet"
    words = "By calculation, {share}: chromium {cr} %, nickel {ni} %."
    figures = {"cr": f"{metal.chromium_pct:.1f}", "ni": f"{metal.analysis.get('Ni', 0.0):.1f}"}
    mixed = WithFormula(
        Estimate("dilution-by-joint", words, share=share, **figures),
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
        words = (
            "Different thicknesses: also calculated with more of either side, up to "
            "30/70 at twice the thickness. The worst case counts."
        )
        reasons.append(Estimate("worst-share", words))
    if metal.chromium_pct < STAINLESS_CR_PCT:
        reasons.append(
            Published(
                "en-10088", "Below {c} % chromium the metal is not stainless.", c=STAINLESS_CR_PCT
            )
        )
    return reasons


def _explain_dilution(joint: Joint, d: float, limits: Limits) -> list[Reason]:
    """The greatest dilution it stands, and what that means at the torch."""
    if limits.even is None or limits.leaning is None or limits.even >= 1:
        return []
    words = (
        "It allows {even} % melted sheet, and {leaning} % with the arc leaning to the worse side"
    )
    figures = {"even": f"{100 * limits.even:.0f}", "leaning": f"{100 * limits.leaning:.0f}"}
    off = (
        "keep the arc off the steel"
        if any(not m.stainless for m in joint.pair)
        else "keep the arc between the two"
    )
    words += (
        f": {off} and feed well."
        if d > limits.leaning - ROOM
        else ". That leaves a margin for manual feeding."
    )
    return [Estimate("greatest-dilution", words, **figures)]


def _explain_ferrite(metal: Reckoned) -> list[Reason]:
    f = metal.ferrite_pct
    if f is None:
        return []
    low, high = SOUND_FERRITE_PCT
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
    mode = (
        prone if r < CRACKING_RATIO else "ferrite first, sound" if r <= 2 else "fully ferrite first"
    )
    said = Published(
        "hammar-svensson-1979",
        "The weld solidifies as {mode} (ratio {r}).",
        mode=mode,
        r=f"{r:.2f}",
    )
    return [WithFormula(said, "Cr′/Ni′, boundary 1.5 (Suutala)", "{r}", r=f"{r:.2f}")]


def _explain_martensite(metal: Reckoned) -> list[Reason]:
    start = metal.martensite_start_c
    if start is None:
        return []
    words = (
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
    return [WithFormula(Published("eichelman-hull-1953", words, t=t), formula, "Ms = {t}", t=t)]


def _explain_pitting(metal: Reckoned) -> Reason:
    figures = {
        "cr": f"{metal.chromium_pct:.1f}",
        "mo": f"{metal.analysis.get('Mo', 0.0):.2f}",
        "n": f"{metal.analysis.get('N', 0.0):.3f}",
        "p": f"{metal.pren:.1f}",
    }
    said = Published("pren", "Pitting number {p}.", p=figures["p"])
    return WithFormula(
        said, "PREN = Cr + 3.3 Mo + 16 N", "{cr} + 3.3 × {mo} + 16 × {n} = {p}", **figures
    )
