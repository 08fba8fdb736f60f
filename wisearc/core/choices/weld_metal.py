"""What the weld metal comes to at this joint, judged by the worst share of the two sides."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from .. import catalogue
from ..catalogue import Rod
from ..chemistry import (
    CRACKING_RATIO,
    SOUND_FERRITE_PCT,
    STAINLESS_CR_PCT,
    WeldMetal,
    judge_analysis,
    mix,
    pren,
)
from ..joint import Joint
from ..reasons import Caution, caution, note, stop
from ..section import Section

_UNLIKE_SHARES = (0.5, 0.3, 0.7)
_ROOM_C = 20.0
# ER309L on steel holds to a dilution of about 0.4, where ferrite is 2.5 %; at 0.5 it is 0.3 % and it does not
LOW_FERRITE_PCT = 1.0


@dataclass(frozen=True)
class Reckoning:
    """Weld metal at the joint's dilution: nominal shares first, then the others that were judged."""

    dilution: float
    metal: WeldMetal
    spread: tuple[WeldMetal, ...]


def reckon(joint: Joint, section: Section, rod: Rod | None, dilution: float | None = None) -> Reckoning:
    """Reckon the weld metal of a rod (None: bare) at a dilution (the joint's own when None).

    Unlike thickness is reckoned at 50/50, 30/70 and 70/30. Source: dilution by joint, an estimate.
    """
    d = 1.0 if rod is None else joint.kind.dilution if dilution is None else dilution
    first, second = joint.metals[0], joint.metals[1]
    shares = _UNLIKE_SHARES if section.unlike and first.key != second.key else (0.5,)
    return _reckon(first.key, second.key, rod.key if rod else None, d, shares)


@lru_cache(maxsize=4096)
def _reckon(first: str, second: str, rod_key: str | None, d: float, shares: tuple[float, ...]) -> Reckoning:
    a, b = catalogue.metals()[first], catalogue.metals()[second]
    rod = catalogue.rods()[rod_key] if rod_key else None
    duplex = (rod is not None and rod.group == "duplex") or {a.group, b.group} == {"duplex"}
    analysis = rod.analysis if rod else None
    spread = tuple(judge_analysis(mix(analysis, (a.analysis, b.analysis), d, share), duplex) for share in shares)
    return Reckoning(d, spread[0], spread)


def worst_cautions(joint: Joint, section: Section, rod: Rod | None, reckoning: Reckoning) -> tuple[Caution, ...]:
    """Every caution the weld metal and the rod bring here, once by code, the worst level kept."""
    found = [*_rod_rules(joint, section, rod)]
    for metal in reckoning.spread:
        found += _metal_rules(joint, section, rod, metal)
    kept: dict[str, Caution] = {}
    for item in found:
        kept.setdefault(item.code, item)
    return tuple(kept.values())


def _rod_rules(joint: Joint, section: Section, rod: Rod | None) -> list[Caution]:
    found: list[Caution] = []
    metals = joint.metals[:2]
    if any(m.key == "303" for m in metals):
        level = stop if joint.service in ("wet", "food", "structural") else caution
        found.append(
            level(
                "unweldable-303",
                "filler",
                "303 is full of sulphur, which cracks the weld. Make the part from 304L; if it must be, {rod} at low dilution, dry and unloaded only.",
                rod="ER312 or ER309L",
            )
        )
    if rod is None:
        return found + _bare_rules(joint)
    if section.stainless_sides and rod.kind == "carbon":
        found.append(
            stop(
                "carbon-rod",
                "filler",
                "{rod} is a carbon-steel rod: in stainless it looks well and rusts. Mixing is never complete, so starts and cap are nearly bare rod. Take a stainless rod.",
                rod=rod.key,
            )
        )
    if rod.kind == "bronze":
        if any(m.austenitic for m in metals):
            found.append(
                caution(
                    "copper-penetration",
                    "filler",
                    "Copper runs into the grain boundaries of austenitic stainless and cracks it under stress. Keep it cool and unloaded, or take a stainless rod.",
                )
            )
        if joint.service in ("structural", "food"):
            found.append(
                stop(
                    "braze-not-weld",
                    "filler",
                    "Silicon bronze is a braze, not a weld: not for {service} work. Take a welding rod.",
                    service=joint.service,
                )
            )
    return found


def _bare_rules(joint: Joint) -> list[Caution]:
    first, second = joint.metals[0], joint.metals[1]
    found: list[Caution] = []
    if "2205" in (first.key, second.key):
        found.append(
            stop(
                "duplex-needs-filler",
                "filler",
                "2205 without filler freezes nearly all ferrite: brittle, and it corrodes. Use ER2209.",
            )
        )
    if first.group != second.group:
        found.append(
            stop(
                "no-filler-dissimilar",
                "filler",
                "{a} and {b} melted together without filler make an unsound mix. Use the rod for the pair.",
                a=first.name,
                b=second.name,
            )
        )
    elif first.key.rstrip("L") != second.key.rstrip("L"):
        found.append(
            caution(
                "no-filler-dissimilar",
                "filler",
                "{a} and {b} without filler: the weld is only as good as the mix of the two. The rod for the pair is safer.",
                a=first.name,
                b=second.name,
            )
        )
    if "fully-austenitic" in (first.group, second.group):
        found.append(
            stop(
                "no-ferrite",
                "filler",
                "{a} is fully austenitic and cracks hot without its rod. Use it.",
                a=first.key if first.group == "fully-austenitic" else second.key,
            )
        )
    if first.kind == second.kind == "carbon":
        found.append(
            caution(
                "porosity",
                "filler",
                "Without filler pores form where the killing of the steel is unknown. ER70S-2 carries the deoxidisers.",
            )
        )
    if not joint.kind.bare_fit:
        found.append(
            caution(
                "bare-fit-joint",
                "filler",
                "Without filler {joint} is sound only where one edge stands proud and is washed over; else the bead is sunk. Use a rod.",
                joint=joint.kind.phrase,
            )
        )
    return found


def _metal_rules(joint: Joint, section: Section, rod: Rod | None, m: WeldMetal) -> list[Caution]:
    if rod is not None and rod.kind == "bronze":
        return [note("not-reckoned", "filler", "A braze does not melt the sheet: its weld metal is not reckoned.")]
    found: list[Caution] = []
    if section.stainless_sides and m.chromium_pct < STAINLESS_CR_PCT:
        found.append(
            stop(
                "weld-metal-not-stainless",
                "filler",
                "The weld metal comes to {cr} % chromium; under 10.5 % it is not stainless and rusts. Use a stainless rod that stands the dilution.",
                cr=f"{m.chromium_pct:.1f}",
            )
        )
    if section.stainless_sides == 0:
        return found
    if m.martensite_start_c is not None and m.martensite_start_c > _ROOM_C:
        found.append(
            caution(
                "martensite",
                "filler",
                "Martensite starts at {ms} °C, above room temperature: the weld turns hard and can crack. {mend}",
                ms=f"{m.martensite_start_c:.0f}",
                mend=_martensite_mend(joint),
            )
        )
    found += _cracking_rules(joint, rod, m)
    if section.stainless_sides == 2:
        poorer = min(pren(x.analysis) for x in joint.metals[:2])
        if m.pren < poorer - 1:
            found.append(
                caution(
                    "pitting-below-base",
                    "filler",
                    "The weld's pitting number is {w}, the poorer sheet's {b}: the weld pits first. A rod with more molybdenum holds.",
                    w=f"{m.pren:.1f}",
                    b=f"{poorer:.1f}",
                )
            )
    found += [note("not-reckoned", "filler", "Not reckoned: {what}.", what=text) for text in m.not_reckoned]
    return found


def _martensite_mend(joint: Joint) -> str:
    if joint.kind.dilution > 0.45:
        return "ER312 stands more steel, or change to a lap or fillet, where the weld is mostly rod."
    return "ER312 stands more steel; feed well."


def _cracking_rules(joint: Joint, rod: Rod | None, m: WeldMetal) -> list[Caution]:
    by_design = rod is not None and rod.group == "fully-austenitic"
    if by_design:
        return [
            caution(
                "no-ferrite",
                "filler",
                "Fully austenitic weld metal: no ferrite by design, so it cracks hot if hurried. Keep the heat low, fill the craters, taper off slowly.",
            )
        ]
    if (
        m.ferrite_pct is not None
        and LOW_FERRITE_PCT <= m.ferrite_pct < SOUND_FERRITE_PCT[0]
        and (m.solidification_ratio or 0) >= CRACKING_RATIO
    ):
        return [
            note(
                "ferrite-low",
                "filler",
                "Ferrite {f} %, a little under the sound 3 %: holds while the rod is fed well and craters are filled.",
                f=f"{m.ferrite_pct:.1f}",
            )
        ]
    if m.ferrite_pct is not None and m.ferrite_pct < SOUND_FERRITE_PCT[0]:
        return [
            caution(
                "hot-cracking",
                "filler",
                "Ferrite {f} %, under the sound 3 %: prone to cracking while hot. A rod with more ferrite (ER309L, ER312) or less dilution mends it.",
                f=f"{m.ferrite_pct:.1f}",
            )
        ]
    if m.solidification_ratio is not None and m.solidification_ratio < CRACKING_RATIO:
        return [
            caution(
                "hot-cracking",
                "filler",
                "Solidifies as austenite first (ratio {r}, under 1.5): prone to cracking while hot. A rod with more ferrite, or less dilution.",
                r=f"{m.solidification_ratio:.2f}",
            )
        ]
    return []
