"""The weld metal in reasons: chart and reckoning side by side, each figure with its formula put
in.
"""

from __future__ import annotations

from ...catalogue.rows import Rod
from ...joint.joint import Joint
from ...physics.chemistry import (
    CRACKING_RATIO,
    ROOM_C,
    SOUND_FERRITE_PCT,
    STAINLESS_CR_PCT,
    WeldMetal,
)
from ...quantities import temperature
from ...reasons import Estimate, Published, Reason, Ruled
from .feeding import Limits

# so much under what it stands with the arc leaning leaves room for the hand
ROOM = 0.05


def reasons_of(
    joint: Joint, rod: Rod | None, metal: WeldMetal, d: float, limits: Limits, worst: bool
) -> list[Reason]:
    """Reasons that show what the weld metal comes to. Parameters: d, dilution; limits, what it
    stands; worst, judged at other shares too.
    """
    if (rod is not None and rod.has("braze")) or not any(m.stainless for m in joint.pair):
        return []
    share = "all melted sheet" if rod is None else f"{d * 100:.0f} % melted sheet"
    words = "By reckoning, {share}: chromium {cr} %, nickel {ni} %."
    figures = {"cr": f"{metal.chromium_pct:.1f}", "ni": f"{metal.analysis.get('Ni', 0.0):.1f}"}
    mixed = Ruled(
        Estimate("dilution-by-joint", words, share=share, **figures),
        "mix = (1 − d) · rod + d · (share of each side)",
        "d = {d}; Creq {cr}, Nieq {ni}",
        d=f"{d:.2f}",
        cr=f"{metal.cr_eq:.2f}",
        ni=f"{metal.ni_eq:.2f}",
    )
    reasons = [
        mixed,
        *_stands(joint, d, limits),
        *_ferrite(metal),
        *_solidification(metal),
        *_martensite(metal),
        _pitting(metal),
    ]
    if worst:
        words = (
            "Unlike thickness: also reckoned with more of either side, to 30/70 where one is twice"
            " the other, and judged by the worst."
        )
        reasons.append(Estimate("worst-share", words))
    if metal.chromium_pct < STAINLESS_CR_PCT:
        reasons.append(
            Published("en-10088", "Under {c} % chromium it is not stainless.", c=STAINLESS_CR_PCT)
        )
    return reasons


def _stands(joint: Joint, d: float, limits: Limits) -> list[Reason]:
    """The greatest dilution it stands, and what that means at the torch."""
    if limits.even is None or limits.leaning is None or limits.even >= 1:
        return []
    words = "It stands {even} % of melted sheet; with the arc leaning to the worse side {leaning} %"
    figures = {"even": f"{100 * limits.even:.0f}", "leaning": f"{100 * limits.leaning:.0f}"}
    off = (
        "keep the arc off the steel"
        if any(not m.stainless for m in joint.pair)
        else "keep the arc between the two"
    )
    words += (
        f": {off} and feed well."
        if d > limits.leaning - ROOM
        else ": that leaves room for the hand."
    )
    return [Estimate("greatest-dilution", words, **figures)]


def _ferrite(metal: WeldMetal) -> list[Reason]:
    f = metal.ferrite_pct
    if f is None:
        return []
    low, high = SOUND_FERRITE_PCT
    state = (
        f"under the sound {low:g} %"
        if f < low
        else f"within the sound {low:g} to {high:g} %"
        if f <= high
        else f"above {high:g} %"
    )
    return [
        Ruled(
            Published("seferian-1959", "Ferrite {f} %, {state}.", f=f"{f:.1f}", state=state),
            "δ = 3 (Creq − 0.93 Nieq − 6.7)",
            "3 ({cr} − 0.93 × {ni} − 6.7) = {f} %",
            cr=f"{metal.cr_eq:.2f}",
            ni=f"{metal.ni_eq:.2f}",
            f=f"{f:.1f}",
        )
    ]


def _solidification(metal: WeldMetal) -> list[Reason]:
    r = metal.solidification_ratio
    if r is None:
        return []
    prone = "austenite first, prone to hot cracking"
    mode = (
        prone
        if r < CRACKING_RATIO
        else "ferrite first, sound"
        if r <= 2
        else "wholly ferrite first"
    )
    said = Published(
        "hammar-svensson-1979", "Freezes as {mode} (ratio {r}).", mode=mode, r=f"{r:.2f}"
    )
    return [Ruled(said, "Cr′/Ni′, boundary 1.5 (Suutala)", "{r}", r=f"{r:.2f}")]


def _martensite(metal: WeldMetal) -> list[Reason]:
    start = metal.martensite_start_c
    if start is None:
        return []
    words = (
        "Martensite starts at {t}, above room temperature: hard."
        if start > ROOM_C
        else (
            "Martensite would start at {t}, well below room temperature."
            if start < -40
            else "Martensite starts at {t}, near room temperature."
        )
    )
    formula = "Ms(°F) = 75(14.6−Cr) + 110(8.9−Ni) + 60(1.33−Mn) + 50(0.47−Si) + 3000(0.068−(C+N))"
    t = temperature(start)
    return [Ruled(Published("eichelman-hull-1953", words, t=t), formula, "Ms = {t}", t=t)]


def _pitting(metal: WeldMetal) -> Reason:
    figures = {
        "cr": f"{metal.chromium_pct:.1f}",
        "mo": f"{metal.analysis.get('Mo', 0.0):.2f}",
        "n": f"{metal.analysis.get('N', 0.0):.3f}",
        "p": f"{metal.pren:.1f}",
    }
    said = Published("pren", "Pitting number {p}.", p=figures["p"])
    return Ruled(said, "PREN = Cr + 3.3 Mo + 16 N", "{cr} + 3.3 × {mo} + 16 × {n} = {p}", **figures)
