"""Which rod, by the chart and by the weld metal it makes; or none, where bare-fit is sound."""

from __future__ import annotations

from dataclasses import dataclass

from .. import catalogue
from ..catalogue import FillerPair, Metal, Rod
from ..chemistry import WeldMetal, pren
from ..joint import Joint
from ..reasons import Caution, Choice, Other, Reason, estimate, practice, say
from .rod_size import RodSize, rod_size
from .so_far import SoFar
from .weld_metal import Reckoning, reckon, worst_cautions
from .weld_metal_words import chart_and_reckoning

BARE_FIT_GAP_MM = 0.05
_NEVER_BARE = ("fully-austenitic", "duplex", "free-machining", "precipitation-hardening")
_SEVERITY = {"stop": 100, "caution": 10, "note": 0}


@dataclass(frozen=True, kw_only=True)
class Filler(Choice):
    """The rod (None: bare-fit), its size and quantity, and the weld metal it makes."""

    rod: Rod | None
    size: RodSize
    reckoning: Reckoning

    @property
    def dilution(self) -> float:
        return self.reckoning.dilution

    @property
    def weld_metal(self) -> WeldMetal:
        return self.reckoning.metal


def choose(so_far: SoFar) -> Filler:
    """Choose the rod. Source: the usual filler charts; weld metal by reckoning; bare-fit by practice."""
    joint = so_far.joint
    pair = pair_for(joint.metals[0], joint.metals[1])
    why: list[Reason]
    if joint.filler == "none":
        rod, why = None, [practice("Set by hand: no filler, the edges melt together.")]
    elif joint.filler != "auto":
        rod = catalogue.rods()[joint.filler]
        first = catalogue.rods()[pair.first].key
        why = [practice("Set by hand: {rod}. The chart's first choice here is {first}.", rod=rod.key, first=first)]
    else:
        rod, why = _auto(so_far, pair)
    reckoning = reckon(joint, so_far.section, rod)
    size = rod_size(so_far, rod)
    why += chart_and_reckoning(joint, pair, rod, reckoning)
    if rod is not None:
        why += size.why
    return Filler(
        rod=rod, size=size, reckoning=reckoning, why=tuple(why),
        others=tuple(_others(so_far, rod, pair)) + size.others,
        cautions=(*worst_cautions(joint, so_far.section, rod, reckoning), *size.cautions),
    )  # fmt: skip


def pair_for(first: Metal, second: Metal) -> FillerPair:
    """The chart's row for two metals; where it has none, the rules for pairs not listed. Common practice."""
    for row in catalogue.filler_pairs():
        if (first.key in row.a and second.key in row.b) or (second.key in row.a and first.key in row.b):
            return row
    return _unlisted(first, second)


def _unlisted(first: Metal, second: Metal) -> FillerPair:
    keys = {first.key, second.key}

    def row(rod: str, sound: tuple[str, ...], why: str) -> FillerPair:
        return FillerPair((first.key,), (second.key,), rod, sound, why, "common-practice", "common-practice")

    if "303" in keys:
        return row("ER312", ("ER309L",), "303 is not for welding; if it must be, a high-ferrite rod at low dilution.")
    if "2205" in keys:
        return row("ER2209", ("ER309LMo",), "2205 with anything takes its over-alloyed rod.")
    if "carbon" in (first.kind, second.kind):
        molybdenum = any(m.analysis.get("Mo", 0) > 1 for m in (first, second) if m.stainless)
        sound = ("ER309LMo", "ER312") if molybdenum else ("ER312", "ER309LMo")
        return row("ER309L", sound, "Stainless to steel: over-alloyed for the iron it takes up.")
    if not (first.austenitic and second.austenitic):
        return row("ER309L", ("ER308L",), "Unlike stainless groups: over-alloyed, tough between the two.")
    if keys & {"309S", "310S"}:
        return row("ER309L", ("ER310",), "One side is a heat-resisting grade: ER309L joins it to the other.")
    return _by_pitting(first, second)


def _by_pitting(first: Metal, second: Metal) -> FillerPair:
    better = max((first, second), key=lambda m: pren(m.analysis))
    own = pair_for(better, better)
    why = f"Both austenitic: the rod of the higher pitting number, that of {better.key}."
    return FillerPair((first.key,), (second.key,), own.first, own.sound, why, "common-practice", "common-practice")


def bare_fit_sound(joint: Joint) -> bool:
    """Whether the joint may be run without filler: corner or edge, no gap, like metals of a sound group.

    Common practice: never with a gap, never 2205, 310 or unlike pairs; steel wants its deoxidised rod.
    Structural work takes the rod's section.
    """
    first, second = joint.metals[0], joint.metals[1]
    like = first.key.rstrip("L") == second.key.rstrip("L")
    ok_group = first.stainless and first.group not in _NEVER_BARE
    return (
        joint.kind.bare_fit and joint.gap_mm <= BARE_FIT_GAP_MM and like and ok_group and joint.service != "structural"
    )


def _auto(so_far: SoFar, pair: FillerPair) -> tuple[Rod | None, list[Reason]]:
    joint = so_far.joint
    if bare_fit_sound(joint) and not _bad(so_far, None):
        return None, [
            practice("Bare-fit {joint}: no gap, so the edges make their own weld metal.", joint=joint.kind.name),
        ]
    candidates = [catalogue.rods()[key] for key in (pair.first, *pair.sound)]
    chosen = min(candidates, key=lambda rod: _bad(so_far, rod))
    listed = Reason(say("{rod}: {why}", rod=pair.first, why=pair.why), pair.source, pair.mark)
    if chosen.key == pair.first:
        return chosen, [listed]
    reckoned = estimate(
        "dilution-by-joint",
        "The chart's first choice is {first}, but at this joint's dilution its weld metal fails; {rod} stands it.",
        first=pair.first, rod=chosen.key,
    )  # fmt: skip
    return chosen, [reckoned, listed]


def _bad(so_far: SoFar, rod: Rod | None) -> int:
    """How badly a rod's weld metal fails here; the sum of its cautions by level."""
    reckoning = reckon(so_far.joint, so_far.section, rod)
    found = worst_cautions(so_far.joint, so_far.section, rod, reckoning)
    fixed = {"coating", "unweldable-303"}
    return sum(_SEVERITY[c.level] for c in found if c.code not in fixed)


def _others(so_far: SoFar, rod: Rod | None, pair: FillerPair) -> list[Other]:
    """What else was open, soundest first, with what each costs."""
    ranked: list[tuple[int, float, Other]] = []
    keys = [k for k in dict.fromkeys((pair.first, *pair.sound)) if rod is None or k != rod.key]
    for key in keys:
        candidate = catalogue.rods()[key]
        reckoning = reckon(so_far.joint, so_far.section, candidate)
        found = worst_cautions(so_far.joint, so_far.section, candidate, reckoning)
        sentence = say(
            "{what} {price} {note}",
            what=describe(reckoning, found),
            price=_price(candidate),
            note=candidate.note,
        )
        school = "filler" if key == "ER312" and pair.a == pair.b == ("4130",) else None
        other = Other(say("{rod}", rod=key), sentence, pair.source, pair.mark, {"filler": key}, school)
        ranked.append((_bad(so_far, candidate), candidate.relative_cost, other))
    if rod is not None and bare_fit_sound(so_far.joint):
        none = Other(
            say("no filler"),
            say("Bare-fit is sound here: no gap, like metals."),
            "common-practice",
            "common-practice",
            {"filler": "none"},
        )
        ranked.append((_bad(so_far, None), 0.0, none))
    if so_far.section.stainless_sides or so_far.section.carbon_sides == 2:
        ranked.append((999, 0.0, _bronze()))
    return [other for *_, other in sorted(ranked, key=lambda row: row[:2])]


def _bronze() -> Other:
    return Other(
        say("ERCuSi-A"),
        say("Silicon bronze is a braze, not a weld: for hard-to-weld pairs at low stress; on austenitic stainless copper can crack the sheet."),
        "common-practice", "common-practice", {"filler": "ERCuSi-A"},
    )  # fmt: skip


def describe(reckoning: Reckoning, found: tuple[Caution, ...]) -> str:
    """A weld metal in a few words: ferrite or chromium, martensite, and its worst caution."""
    metal = reckoning.metal
    words = [
        f"ferrite {metal.ferrite_pct:.0f} %"
        if metal.ferrite_pct is not None
        else f"chromium {metal.chromium_pct:.1f} %"
    ]
    if metal.martensite_start_c is not None and metal.martensite_start_c > 20:
        words.append("hard martensite")
    worst = next((c for level in ("stop", "caution") for c in found if c.level == level), None)
    if worst:
        words.append(worst.code.replace("-", " "))
    text = ", ".join(words)
    return text[0].upper() + text[1:] + "."


def _price(rod: Rod) -> str:
    return (
        f"About {rod.relative_cost:g} times the price of ER308L (estimate)."
        if rod.relative_cost != 1
        else "The cheapest of its kind."
    )
