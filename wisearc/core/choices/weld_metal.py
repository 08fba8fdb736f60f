"""What the weld metal comes to at this joint, judged by the worst share of the two sides."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

from .. import catalogue
from ..catalogue.rows import Metal, Rod
from ..chemistry import (
    CRACKING_RATIO,
    ROOM_C,
    SOUND_FERRITE_PCT,
    STAINLESS_CR_PCT,
    Analysis,
    cr_eq,
    judge_analysis,
    mix,
    ni_eq,
    pren,
)
from ..chemistry import WeldMetal as Reckoned
from ..figures import figure
from ..joint import Joint
from ..reasons import Caution, Choice, caution, note, stop
from ..section import Section
from .rod_rules import rod_cautions
from .weld_metal_words import reasons_of

_UNLIKE_SHARES = (0.5, 0.3, 0.7)
# a lap or fillet, where the weld is mostly rod, lies at or under it
MOSTLY_ROD_DILUTION = 0.45
# an over-alloyed rod on steel holds to a dilution of about 0.4, where ferrite is 2.5 %; at 0.5 it is 0.3 % and it does not
LOW_FERRITE_PCT = 1.0
PITTING_SLACK = 1.0


@dataclass(frozen=True, kw_only=True)
class WeldMetal(Choice):
    """The weld metal of the chosen rod: dilution, equivalents, ferrite and chromium %, martensite start °C, pitting number;
    where the rod stands among chromium and nickel."""

    part: ClassVar[str] = "weld_metal"
    answer: ClassVar[str] = "filler"
    dilution: float = figure("Dilution", "plain")
    cr_eq: float = figure("Chromium equivalent", "plain", 2)
    ni_eq: float = figure("Nickel equivalent", "plain", 2)
    ferrite_pct: float | None = figure("Ferrite", "ferrite", 1, compared="Ferrite")
    solidification_ratio: float | None = figure("Solidification ratio", "plain", 3)
    martensite_start_c: float | None = figure("Martensite start", "temperature", 0, signed=True)
    pren: float = figure("Pitting number", "number", 1, compared="Pitting number")
    chromium_pct: float = figure("Chromium", "ferrite", 2)
    not_reckoned: tuple[str, ...] = figure("Not reckoned")
    rod_cr_eq: float | None = figure("Chromium equivalent of the rod", "plain", 2)
    rod_ni_eq: float | None = figure("Nickel equivalent of the rod", "plain", 2)


@dataclass(frozen=True)
class Reckoning:
    """Weld metal at the joint's dilution: nominal shares first, then the others that were judged."""

    dilution: float
    metal: Reckoned
    spread: tuple[Reckoned, ...]


def reckon_weld_metal(joint: Joint, section: Section, rod_key: str | None) -> WeldMetal:
    """Reckon the weld metal of the chosen rod (None: bare). Dilution by joint, an estimate; formulas published."""
    rod = catalogue.rods()[rod_key] if rod_key else None
    reckoning = reckon(joint, section, rod)
    m = reckoning.metal
    melted = rod is not None and not rod.has("braze")
    return WeldMetal(
        dilution=reckoning.dilution, cr_eq=m.cr_eq, ni_eq=m.ni_eq, ferrite_pct=m.ferrite_pct, solidification_ratio=m.solidification_ratio,
        martensite_start_c=m.martensite_start_c, pren=m.pren, chromium_pct=m.chromium_pct, not_reckoned=m.not_reckoned,
        rod_cr_eq=cr_eq(rod.analysis) if rod and melted else None, rod_ni_eq=ni_eq(rod.analysis) if rod and melted else None,
        why=tuple(reasons_of(joint, rod, m, reckoning.dilution, len(reckoning.spread) > 1)), cautions=judge(joint, section, rod, reckoning),
    )  # fmt: skip


def reckon(joint: Joint, section: Section, rod: Rod | None, dilution: float | None = None) -> Reckoning:
    """Reckon the weld metal of a rod (None: bare) at a dilution (the joint's own when None).

    Unlike thickness is reckoned at 50/50, 30/70 and 70/30. Source: dilution by joint, an estimate.
    """
    d = 1.0 if rod is None else joint.kind.dilution if dilution is None else dilution
    first, second = joint.pair
    return _reckon(first, second, rod, d, _UNLIKE_SHARES if section.unlike and first is not second else (0.5,))


@lru_cache(maxsize=4096)
def _reckon(first: Metal, second: Metal, rod: Rod | None, d: float, shares: tuple[float, ...]) -> Reckoning:
    duplex = (rod is not None and rod.group == "duplex") or (first.has("duplex") and second.has("duplex"))
    analysis: Analysis | None = rod.analysis if rod else None
    sides = (first.analysis, second.analysis)
    spread = tuple(judge_analysis(mix(analysis, sides, d, share), duplex) for share in shares)
    return Reckoning(d, spread[0], spread)


def judge(joint: Joint, section: Section, rod: Rod | None, reckoning: Reckoning) -> tuple[Caution, ...]:
    """Every caution the weld metal and the rod bring here, once by code, the worst level kept."""
    found = [*rod_cautions(joint, section, rod)]
    for metal in reckoning.spread:
        found += _metal_rules(joint, section, rod, metal)
    kept: dict[str, Caution] = {}
    for item in found:
        kept.setdefault(item.code, item)
    return tuple(kept.values())


def _metal_rules(joint: Joint, section: Section, rod: Rod | None, m: Reckoned) -> list[Caution]:
    if rod is not None and rod.has("braze"):
        return [note("not-reckoned", "filler", "A braze does not melt the sheet: its weld metal is not reckoned.")]
    if section.stainless_sides == 0:
        return []
    found: list[Caution] = []
    if m.chromium_pct < STAINLESS_CR_PCT:
        words = "The weld metal comes to {cr} % chromium; under 10.5 % it is not stainless and rusts. Use a stainless rod that stands the dilution."
        found.append(stop("weld-metal-not-stainless", "filler", words, cr=f"{m.chromium_pct:.1f}"))
    if m.martensite_start_c is not None and m.martensite_start_c > ROOM_C:
        words = "Martensite starts at {ms} °C, above room temperature: the weld turns hard and can crack. {mend}"
        ms = f"{m.martensite_start_c:.0f}"
        found.append(caution("martensite", "filler", words, ms=ms, mend=_martensite_mend(joint)))
    found += _cracking_rules(rod, m)
    poorer = min(pren(metal.analysis) for metal in joint.pair)
    if section.stainless_sides == 2 and m.pren < poorer - PITTING_SLACK:
        words = "The weld's pitting number is {w}, the poorer sheet's {b}: the weld pits first. A rod with more molybdenum holds."
        found.append(caution("pitting-below-base", "filler", words, w=f"{m.pren:.1f}", b=f"{poorer:.1f}"))
    return found + [note("not-reckoned", "filler", "Not reckoned: {what}.", what=text) for text in m.not_reckoned]


def _martensite_mend(joint: Joint) -> str:
    stands = catalogue.rods_with("stands_steel")
    if joint.kind.dilution > MOSTLY_ROD_DILUTION:
        return f"{stands} stands more steel, or change to a lap or fillet, where the weld is mostly rod."
    return f"{stands} stands more steel; feed well."


def _cracking_rules(rod: Rod | None, m: Reckoned) -> list[Caution]:
    if rod is not None and rod.group == "fully-austenitic":
        words = "Fully austenitic weld metal: no ferrite by design, so it cracks hot if hurried. Keep the heat low, fill the craters, taper off slowly."
        return [caution("no-ferrite", "filler", words)]
    ferrite, ratio = m.ferrite_pct, m.solidification_ratio
    austenite_first = ratio is not None and ratio < CRACKING_RATIO
    if ferrite is not None and ferrite < SOUND_FERRITE_PCT[0]:
        if ferrite >= LOW_FERRITE_PCT and not austenite_first:
            words = (
                "Ferrite {f} %, a little under the sound 3 %: holds while the rod is fed well and craters are filled."
            )
            return [note("ferrite-low", "filler", words, f=f"{ferrite:.1f}")]
        words = "Ferrite {f} %, under the sound 3 %: prone to cracking while hot. A rod with more ferrite ({rods}) or less dilution mends it."
        rods = catalogue.rods_with("more_ferrite").replace(" or ", ", ")
        return [caution("hot-cracking", "filler", words, f=f"{ferrite:.1f}", rods=rods)]
    if austenite_first:
        words = "Solidifies as austenite first (ratio {r}, under 1.5): prone to cracking while hot. A rod with more ferrite, or less dilution."
        return [caution("hot-cracking", "filler", words, r=f"{ratio:.2f}")]
    return []
