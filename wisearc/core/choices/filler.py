"""Which rod, by the chart and by the weld metal it makes; or none, where bare-fit is sound."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import ClassVar

from .. import catalogue
from ..catalogue.rows import FillerPair, FillerRule, Metal, Rod
from ..chemistry import ROOM_C, pren
from ..figures import ByHand, figure
from ..joint import Joint
from ..reasons import Caution, Choice, Other, Reason, estimate, instead, practice, say
from ..section import Section
from .rod_size import rod_size
from .weld_metal import Reckoning, judge, reckon

BARE_FIT_GAP_MM = 0.05
MOLYBDENUM_FROM_PCT = 1.0
_SEVERITY = {"stop": 100, "caution": 10, "note": 0}
# cautions that no other rod would mend
_NOT_THE_RODS = ("coating", "unweldable-303")


@dataclass(frozen=True, kw_only=True)
class Filler(Choice):
    """The rod (None: bare-fit), its diameter mm, how much is fed mm, rods, section of the deposit mm²."""

    part: ClassVar[str] = "filler"
    answer: ClassVar[str] = "filler"
    label: ClassVar[str] = "Filler"
    rod: str | None = figure("Rod")
    diameter_mm: float | None = figure("Rod diameter", "length", positive=True, pin=ByHand("rod_diameter_mm", 0.5, 3.2))
    length_mm: float = figure("Rod fed", "size", 1, compared="Rod fed")
    rods: int = figure("Rods", "count")
    deposit_mm2: float = figure("Section of the deposit", "plain", 3)

    def words(self) -> tuple[str, str]:
        if self.rod is None:
            return "none", "bare-fit, melt the edges"
        return "{rod} {diameter_mm}", "{length_mm} of it, {rods} rod" + ("s" if self.rods != 1 else "")


def choose_filler(joint: Joint, section: Section) -> Filler:
    """Choose the rod. Source: the usual filler charts; weld metal by reckoning; bare-fit by practice."""
    pair = pair_for(*joint.pair)
    why: list[Reason]
    if joint.filler == "none":
        rod, why = None, [practice("Set by hand: no filler, the edges melt together.")]
    elif joint.filler != "auto":
        rod = catalogue.rods()[joint.filler]
        why = [practice("Set by hand: {rod}. The chart's first choice here is {first}.", rod=rod.key, first=pair.first)]
    else:
        rod, why = _own(joint, section, pair)
    size = rod_size(joint, section, rod)
    return Filler(
        rod=rod.key if rod else None, diameter_mm=size.diameter_mm, length_mm=size.feed_mm, rods=size.rods, deposit_mm2=size.deposit_mm2,
        why=(*why, _chart(pair), *size.why), others=(*_others(joint, section, rod, pair), *size.others), cautions=size.cautions,
    )  # fmt: skip


def _chart(pair: FillerPair) -> Reason:
    sound = f", also sound {', '.join(pair.sound)}" if pair.sound else ""
    return Reason(say("By the chart: {first}{sound}.", first=pair.first, sound=sound), pair.source, pair.mark)


@lru_cache(maxsize=2048)
def pair_for(first: Metal, second: Metal) -> FillerPair:
    """The chart's row for two metals; where it has none, the rules for pairs not listed. Common practice."""
    for row in catalogue.filler_pairs():
        if (first.key in row.a and second.key in row.b) or (second.key in row.a and first.key in row.b):
            return row
    for rule in catalogue.filler_rules():
        if (who := _fits(rule, first, second)) is not None:
            return _row(first, second, rule.first, rule.sound, rule.why.format(a=who.key))
    better = max((first, second), key=lambda m: pren(m.analysis))
    if better is first and better is second:
        return _row(first, second, _own_rod(better), (), f"The usual rod of its group, for {better.key}.")
    own = pair_for(better, better)
    why = f"Both austenitic: the rod of the higher pitting number, that of {better.key}."
    return _row(first, second, own.first, own.sound, why)


def _row(first: Metal, second: Metal, rod: str, sound: tuple[str, ...], why: str) -> FillerPair:
    return FillerPair((first.key,), (second.key,), rod, sound, why, "common-practice", "common-practice")


def _fits(rule: FillerRule, first: Metal, second: Metal) -> Metal | None:
    """The metal on whose account a rule fits a pair, or None where it does not."""
    steels = [m for m in (first, second) if not m.stainless]
    if rule.either:
        return next((m for m in (first, second) if m.has(rule.either)), None)
    if rule.unlike:
        like = first.group == second.group
        return None if like else next((m for m in (first, second) if not m.has(rule.unlike)), None)
    if rule.both_steel:
        return first if len(steels) == 2 and first.group != second.group else None
    if len(steels) != 1:
        return None
    molybdenum = any(m.analysis.get("Mo", 0) > MOLYBDENUM_FROM_PCT for m in (first, second) if m.stainless)
    return steels[0] if molybdenum or not rule.molybdenum else None


def _own_rod(metal: Metal) -> str:
    """The rod of a metal's group, or the cheapest of its kind that does not pit before it."""
    usual = catalogue.rods()[metal.own_rod]
    like = sorted((r for r in catalogue.rods().values() if r.group == usual.group), key=lambda r: r.relative_cost)
    return next((r.key for r in (usual, *like) if pren(r.analysis) >= pren(metal.analysis)), usual.key)


def bare_fit_sound(joint: Joint) -> bool:
    """Whether the joint may be run without filler: corner or edge, no gap, like metals of a sound group.

    Common practice: never with a gap, never duplex, fully austenitic or unlike pairs; steel wants its deoxidised
    rod. Structural work takes the rod's section.
    """
    first, second = joint.pair
    like = first.family == second.family
    sound = first.stainless and not first.has("not_bare")
    return joint.kind.bare_fit and joint.gap_mm <= BARE_FIT_GAP_MM and like and sound and joint.service != "structural"


def _own(joint: Joint, section: Section, pair: FillerPair) -> tuple[Rod | None, list[Reason]]:
    if bare_fit_sound(joint) and not _failing(joint, section, None)[0]:
        words = "Bare-fit {joint}: no gap, so the edges make their own weld metal."
        return None, [practice(words, joint=joint.kind.name)]
    candidates = [catalogue.rods()[key] for key in (pair.first, *pair.sound)]
    chosen = min(candidates, key=lambda rod: _failing(joint, section, rod)[0])
    listed = Reason(say("{rod}: {why}", rod=pair.first, why=pair.why), pair.source, pair.mark)
    if chosen.key == pair.first:
        return chosen, [listed]
    words = "The chart's first choice is {first}, but at this joint's dilution its weld metal fails; {rod} stands it."
    return chosen, [estimate("dilution-by-joint", words, first=pair.first, rod=chosen.key), listed]


def _failing(joint: Joint, section: Section, rod: Rod | None) -> tuple[int, Reckoning, tuple[Caution, ...]]:
    """How badly a rod's weld metal fails here (the sum of its cautions by level), with what that rests on."""
    reckoning = reckon(joint, section, rod)
    found = judge(joint, section, rod, reckoning)
    return sum(_SEVERITY[c.level] for c in found if c.code not in _NOT_THE_RODS), reckoning, found


def _others(joint: Joint, section: Section, rod: Rod | None, pair: FillerPair) -> list[Other]:
    """What else was open, soundest first, with what each costs."""
    ranked: list[tuple[int, float, Other]] = []
    for key in dict.fromkeys((pair.first, *pair.sound)):
        if rod is not None and key == rod.key:
            continue
        candidate = catalogue.rods()[key]
        failing, reckoning, found = _failing(joint, section, candidate)
        sentence = say(
            "{what} {price} {note}", what=describe(reckoning, found), price=_price(candidate), note=candidate.note
        )
        school = "filler" if key == pair.other_school else ""
        other = Other(say("{rod}", rod=key), sentence, pair.source, pair.mark, {"filler": key}, school)
        ranked.append((failing, candidate.relative_cost, other))
    if rod is not None and bare_fit_sound(joint):
        none = instead(say("no filler"), {"filler": "none"}, "Bare-fit is sound here: no gap, like metals.")
        ranked.append((_failing(joint, section, None)[0], 0.0, none))
    if section.stainless_sides or section.carbon_sides == 2:
        ranked += [(999, 0.0, _brazed(key)) for key, r in catalogue.rods().items() if r.has("braze")]
    return [other for *_, other in sorted(ranked, key=lambda row: row[:2])]


def _brazed(rod: str) -> Other:
    words = "Silicon bronze is a braze, not a weld: for hard-to-weld pairs at low stress; on austenitic stainless copper can crack the sheet."
    return instead(say("{rod}", rod=rod), {"filler": rod}, words)


def describe(reckoning: Reckoning, found: tuple[Caution, ...]) -> str:
    """A weld metal in a few words: ferrite or chromium, martensite, and its worst caution."""
    metal = reckoning.metal
    reckoned = metal.ferrite_pct is not None
    words = [f"ferrite {metal.ferrite_pct:.0f} %" if reckoned else f"chromium {metal.chromium_pct:.1f} %"]
    if metal.martensite_start_c is not None and metal.martensite_start_c > ROOM_C:
        words.append("hard martensite")
    worst = next((c for level in ("stop", "caution") for c in found if c.level == level), None)
    if worst:
        words.append(worst.code.replace("-", " "))
    text = ", ".join(words)
    return text[0].upper() + text[1:] + "."


def _price(rod: Rod) -> str:
    usual = next(r.key for r in catalogue.rods().values() if r.relative_cost == 1)
    if rod.relative_cost == 1:
        return "The cheapest of its kind."
    return f"About {rod.relative_cost:g} times the price of {usual} (estimate)."
