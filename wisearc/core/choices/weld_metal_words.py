"""The weld metal in reasons: chart and reckoning side by side, each figure with its formula put in."""

from __future__ import annotations

from ..catalogue import FillerPair, Rod
from ..chemistry import CRACKING_RATIO, SOUND_FERRITE_PCT, STAINLESS_CR_PCT, WeldMetal
from ..joint import Joint
from ..quantities import temperature
from ..reasons import Reason, estimate, say
from .weld_metal import Reckoning


def chart_and_reckoning(joint: Joint, pair: FillerPair, rod: Rod | None, reckoning: Reckoning) -> list[Reason]:
    """Reasons that show what the chart says and what the weld metal comes to."""
    metal, d = reckoning.metal, reckoning.dilution
    sound = f", also sound {', '.join(pair.sound)}" if pair.sound else ""
    chart = Reason(say("By the chart: {first}{sound}.", first=pair.first, sound=sound), pair.source, pair.mark)
    share = "all melted sheet" if rod is None else f"{d * 100:.0f} % melted sheet"
    mixing = estimate(
        "dilution-by-joint",
        "By reckoning, {share}: chromium {cr} %, nickel {ni} %.",
        share=share,
        cr=f"{metal.chromium_pct:.1f}",
        ni=f"{metal.analysis.get('Ni', 0.0):.1f}",
    )
    mixed = Reason(
        mixing.sentence,
        mixing.source,
        mixing.mark,
        "mix = (1 − d) · rod + d · (share of each side)",
        say("d = {d}; Creq {cr}, Nieq {ni}", d=f"{d:.2f}", cr=f"{metal.cr_eq:.2f}", ni=f"{metal.ni_eq:.2f}"),
    )
    if rod is not None and rod.kind == "bronze":
        return [chart]
    if not any(m.stainless for m in joint.metals[:2]):
        return [chart]
    reasons = [chart, mixed, *_ferrite(metal), *_solidification(metal), *_martensite(metal)]
    reasons.append(
        Reason(
            say("Pitting number {p}.", p=f"{metal.pren:.1f}"), "pren", "published", "PREN = Cr + 3.3 Mo + 16 N",
            say("{cr} + 3.3 × {mo} + 16 × {n} = {p}", cr=f"{metal.chromium_pct:.1f}", mo=f"{metal.analysis.get('Mo', 0.0):.2f}", n=f"{metal.analysis.get('N', 0.0):.3f}", p=f"{metal.pren:.1f}"),
        )
    )  # fmt: skip
    if len(reckoning.spread) > 1:
        reasons.append(
            estimate(
                "worst-share",
                "Unlike thickness: also reckoned at 30/70 and 70/30 of the two sides, and judged by the worst.",
            )
        )
    if metal.chromium_pct < STAINLESS_CR_PCT:
        reasons.append(
            Reason(say("Under {c} % chromium it is not stainless.", c=STAINLESS_CR_PCT), "en-10088", "published")
        )
    return reasons


def _ferrite(metal: WeldMetal) -> list[Reason]:
    if metal.ferrite_pct is None:
        return []
    low, high = SOUND_FERRITE_PCT
    state = (
        f"under the sound {low:g} %"
        if metal.ferrite_pct < low
        else f"within the sound {low:g} to {high:g} %"
        if metal.ferrite_pct <= high
        else f"above {high:g} %"
    )
    return [
        Reason(
            say("Ferrite {f} %, {state}.", f=f"{metal.ferrite_pct:.1f}", state=state), "seferian-1959", "published",
            "δ = 3 (Creq − 0.93 Nieq − 6.7)",
            say("3 ({cr} − 0.93 × {ni} − 6.7) = {f} %", cr=f"{metal.cr_eq:.2f}", ni=f"{metal.ni_eq:.2f}", f=f"{metal.ferrite_pct:.1f}"),
        )
    ]  # fmt: skip


def _solidification(metal: WeldMetal) -> list[Reason]:
    ratio = metal.solidification_ratio
    if ratio is None:
        return []
    mode = (
        "austenite first, prone to hot cracking"
        if ratio < CRACKING_RATIO
        else "ferrite first, sound"
        if ratio <= 2
        else "wholly ferrite first"
    )
    return [
        Reason(
            say("Freezes as {mode} (ratio {r}).", mode=mode, r=f"{ratio:.2f}"),
            "hammar-svensson-1979",
            "published",
            "Cr′/Ni′, boundary 1.5 (Suutala)",
            say("{r}", r=f"{ratio:.2f}"),
        )
    ]


def _martensite(metal: WeldMetal) -> list[Reason]:
    start = metal.martensite_start_c
    if start is None:
        return []
    words = (
        "Martensite starts at {t}, above room temperature: hard."
        if start > 20
        else "Martensite would start at {t}, well below room temperature."
        if start < -40
        else "Martensite starts at {t}, near room temperature."
    )
    return [
        Reason(
            say(words, t=temperature(start)),
            "eichelman-hull-1953",
            "published",
            "Ms(°F) = 75(14.6−Cr) + 110(8.9−Ni) + 60(1.33−Mn) + 50(0.47−Si) + 3000(0.068−(C+N))",
            say("Ms = {t}", t=temperature(start)),
        )
    ]
