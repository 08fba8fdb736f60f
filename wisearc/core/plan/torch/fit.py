"""The torch parts: tip, front end and cup together, because they must fit.

The joint defines the preferred tip, front end and cup. With a known stock, the suitable combination
with the fewest missing parts is chosen, and among those the nearest one.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from ... import catalogue
from ...catalogue.rows import Kit, Tip, TungstenType
from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import size, stock
from ...reasons import Estimate, Practice, Reason, Sentence, Substitution
from ...shop.bench import Bench
from ...shop.shop import OwnTorch, Shop
from ..arc.heat import HeatResult
from ..arc.pulse import Pulse
from ..preparation.tacks import Tacks
from .front_end import (
    COVER_BORES,
    NAMES,
    STANDARD_CUP,
    UNCOVERED_FROM_MM,
    choose_wanted_cup,
    choose_wanted_front_end,
    cover_mm,
    rank_stickout,
)
from .tips import can_carry, choose_tip

DEFAULT_TYPE = "lanthanated-2"
# The minimum cover of another cup relative to the preferred one: for visible and for other seams.
SHOW_SHARE, STANDARD_SHARE = 0.75, 0.5


class TorchPart(Struct, frozen=True):
    """A part: kind, family, tungsten mm or cup, and whether it is in stock (None: unknown)."""

    kind: str
    family: str
    tungsten_mm: float | None = None
    cup: int | None = None
    fits: str | None = None
    owned: bool | None = None


class Fit(Struct, frozen=True):
    """The torch and its parts.

    Tip and tungsten type, kit, cup, parts in the order of assembly with the tungsten (kind
    "tungsten"), the reason for the cup, substitutions, and the nearest more complete combination if
    parts are missing.
    """

    torch: OwnTorch
    tip: Tip
    type: TungstenType
    kit: Kit
    cup: int
    parts: tuple[TorchPart, ...]
    why: tuple[Reason, ...]
    instead_of_torch: tuple[Substitution, ...] = ()
    instead_of_tungsten: tuple[Substitution, ...] = ()
    nearest: Fit | None = None

    @property
    def missing(self) -> tuple[TorchPart, ...]:
        """Return the parts that are not in stock."""
        return tuple(p for p in self.parts if p.owned is False)


class _Wanted(Struct, frozen=True):
    """The preferred parts, without regard to the stock."""

    tip: Tip
    front_end: str
    cup: int
    why: Reason
    steady: float
    peak: float
    band_mm: float


def choose_fit(
    joint: Joint, section: Section, bench: Bench, heat: HeatResult, pulse: Pulse, tacks: Tacks
) -> Fit:
    """Choose the torch parts.

    Matching parts: common practice. Equally suitable parts: estimate.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        heat: The heat.
        pulse: The pulse.
        tacks: The tacks.
    """
    wanted = _find_wanted(joint, section, heat, pulse, tacks)
    chosen = _find_best_fit(joint, section, bench, wanted, joint.pins)
    if not chosen.missing:
        return chosen
    # A more complete combination, even with less cover, is offered and never chosen automatically.
    offered = (
        _find_best_fit(joint, section, bench, wanted, pins, covers)
        for pins, covers in (({}, True), (joint.pins, False), ({}, False))
    )
    nearest = next((fit for fit in offered if len(fit.missing) < len(chosen.missing)), None)
    return replace(chosen, nearest=nearest)


def _find_wanted(
    joint: Joint, section: Section, heat: HeatResult, pulse: Pulse, tacks: Tacks
) -> _Wanted:
    front = joint.pins.get("front_end", choose_wanted_front_end(joint, section))
    wanted_cup, why = choose_wanted_cup(joint, section, heat.hot_band_mm, front)
    cup = joint.pins.get("cup", wanted_cup)
    if "cup" in joint.pins:
        why = Practice(
            "No. {cup} set manually. The recommended cup is no. {own}.", cup=cup, own=wanted_cup
        )
    steady, peak = pulse.average_a, max(pulse.peak_a, tacks.current_a)
    tip = choose_tip(steady, peak, joint.pins.get("tungsten_mm", None))
    return _Wanted(tip, front, cup, why, steady, peak, heat.hot_band_mm)


def _find_best_fit(
    joint: Joint, section: Section, bench: Bench, wanted: _Wanted, pins: Any, covers: bool = True
) -> Fit:
    """Return the best combination on the torch that carries the mean current.

    The fewest missing parts win, and then the torch in use. `pins` are manual answers, and `covers`
    requires almost the cover of the preferred parts.
    """
    built = {
        family: _build(joint, section, bench, wanted, pins, covers, family)
        for family in {t.row.family for t in bench.torches}
    }
    torch = min(
        bench.torches, key=lambda t: (wanted.steady > t.row.rating_a, built[t.row.family][0])
    )
    return _fit(joint, bench, torch, *built[torch.row.family][1], wanted)


def _build(
    joint: Joint,
    section: Section,
    bench: Bench,
    wanted: _Wanted,
    pins: Any,
    covers: bool,
    family: str,
) -> tuple[int, tuple[Tip, Kit, int]]:
    """Return the suitable combination with the fewest missing parts on a torch family.

    Number of missing parts, tip, kit and cup. The nearest one wins.
    """
    kits = [k for k in catalogue.load_kits() if k.torch == family]
    shop = bench.shop
    if shop.parts is None and shop.tungstens is None:
        kit = next(k for k in kits if k.front_end == wanted.front_end)
        return 0, (wanted.tip, kit, wanted.cup if "cup" in pins else min(wanted.cup, kit.max_cup))
    pinned = joint.pins.get("tungsten_type", None) if "tungsten_type" in pins else None
    cups = {
        front: tuple(_list_cups(joint, section, wanted, front, pins, covers))
        for front in _list_front_ends(wanted, pins)
    }
    kits = [k for k in kits if k.front_end in cups]
    ranked = []
    for tip in _list_tips(wanted, pins):
        bare = _count_missing_tungsten(shop, tip, pinned)
        for kit in kits:
            lacks = bare + sum(
                (p.kind, p.family, p.tungsten_mm, p.cup, p.fits) not in shop.shelf
                for p in _list_fixed_parts(kit, tip.diameter_mm)
            )
            for cup in _list_made_cups(kit, cups[kit.front_end], "cup" in pins):
                all_lacks = lacks + (("cup", kit.cups, None, cup, kit.front_end) not in shop.shelf)
                ranked.append((all_lacks if shop.parts is not None else bare, tip, kit, cup))
    fewest = min(ranked_fit[0] for ranked_fit in ranked)
    nearest = min(
        (ranked_fit for ranked_fit in ranked if ranked_fit[0] == fewest),
        key=lambda ranked_fit: _measure_distance(wanted, *ranked_fit[1:]),
    )
    no_cap = shop.parts is not None and all(of != family for of, _ in shop.caps)
    return fewest + no_cap, nearest[1:]


def _list_made_cups(kit: Kit, cups: tuple[int, ...], is_manual: bool) -> list[int]:
    """Return the cups that are made for a kit, or its largest one for larger ones only.

    A manual cup stays.
    """
    fitting = [cup for cup in cups if cup <= kit.max_cup or is_manual]
    return fitting or ([kit.max_cup] if cups else [])


@lru_cache(maxsize=64)
def _list_fixed_parts(kit: Kit, diameter_mm: float) -> tuple[TorchPart, ...]:
    """Return the parts that depend only on the tungsten, in order, without the back cap."""
    body = next(
        key
        for key, kind in catalogue.load_part_kinds().items()
        if kind.has("lens" if kit.front_end == "gas-lens" else "plain")
    )
    return (
        TorchPart("heat-shield", kit.parts),
        TorchPart(body, kit.parts, diameter_mm),
        TorchPart("collet", kit.parts, diameter_mm),
    )


def _measure_distance(wanted: _Wanted, tip: Tip, kit: Kit, cup: int) -> tuple[float, ...]:
    """Return the distance from the preferred parts.

    Less cover first, then front end, cup, tungsten, kit.
    """
    cover = cover_mm(kit.front_end, cup)
    theirs = min(wanted.band_mm, cover_mm(wanted.front_end, wanted.cup))
    short = max(0.0, theirs - cover - UNCOVERED_FROM_MM)
    return (
        round(short, 6),
        float(kit.front_end != wanted.front_end),
        float(abs(cup - wanted.cup)),
        abs(tip.diameter_mm - wanted.tip.diameter_mm),
        float(kit.parts != kit.torch),
    )


def _list_front_ends(wanted: _Wanted, pins: Any) -> Iterator[str]:
    yield wanted.front_end
    if "front_end" not in pins:
        yield from (front for front in COVER_BORES if front != wanted.front_end)


def _list_cups(
    joint: Joint, section: Section, wanted: _Wanted, front: str, pins: Any, covers: bool
) -> Iterator[int]:
    """Yield the equally suitable cups: with sufficient reach and cover."""
    if "cup" in pins:
        yield wanted.cup
        return
    share = SHOW_SHARE if joint.finish == "show" and section.stainless_sides else STANDARD_SHARE
    theirs = min(wanted.band_mm, cover_mm(wanted.front_end, wanted.cup))
    bound = rank_stickout(joint, wanted.front_end, wanted.cup)
    for cup in catalogue.load_cups():
        if (front, cup) == (wanted.front_end, wanted.cup):
            yield cup
            continue
        # On an edge, a smaller cup does not contain the gas.
        worse = joint.kind.has("splits_gas") and (cup < wanted.cup or front == "plain")
        enough = not covers or cover_mm(front, cup) >= share * theirs
        # A long reach never takes a cup smaller than the standard one.
        small = bound > 0 and front == "gas-lens" and cup < STANDARD_CUP
        if enough and not worse and not small and rank_stickout(joint, front, cup) <= bound:
            yield cup


def _list_tips(wanted: _Wanted, pins: Any) -> Iterator[Tip]:
    """Yield the preferred tip, then other sizes that carry the arc."""
    yield wanted.tip
    if "tungsten_mm" not in pins:
        for d in catalogue.rod_capacity_a():
            tip = choose_tip(wanted.steady, wanted.peak, d)
            if d != wanted.tip.diameter_mm and can_carry(tip, wanted.steady, wanted.peak):
                yield tip


def _choose_type(shop: Shop, tip: Tip, pinned: str | None) -> TungstenType:
    """Return the tungsten type.

    It is the manual type, the usual one if in stock or without alternative, or else a type in stock
    that needs no mask.
    """
    types = catalogue.load_tungsten_types()
    if pinned is not None:
        return types[pinned]
    types_in_stock = {tungsten.type for tungsten in shop.tungsten_stock.get(tip.diameter_mm, ())}
    usual = (DEFAULT_TYPE, *(key for key, row in types.items() if not row.radioactive))
    return types[next((key for key in usual if key in types_in_stock), DEFAULT_TYPE)]


def _count_missing_tungsten(shop: Shop, tip: Tip, pinned: str | None) -> int:
    """Return 1 if the size is out of stock, in the manual type or any type that needs no mask."""
    if shop.tungstens is None:
        return 0
    kind = _choose_type(shop, tip, pinned).key
    return int(
        not any(tungsten.type == kind for tungsten in shop.tungsten_stock.get(tip.diameter_mm, ()))
    )


def _fit(
    joint: Joint, bench: Bench, torch: OwnTorch, tip: Tip, kit: Kit, cup: int, wanted: _Wanted
) -> Fit:
    pinned = joint.pins.get("tungsten_type", None)
    kind = _choose_type(bench.shop, tip, pinned)
    fit = Fit(torch, tip, kind, kit, cup, _list_parts(bench, tip, kit, cup, pinned), (wanted.why,))
    swapped, tungsten = (
        _list_torch_substitutions(wanted, fit),
        () if pinned else _list_tungsten_substitutions(wanted, fit),
    )
    return replace(
        fit,
        instead_of_torch=swapped,
        instead_of_tungsten=tungsten,
        why=_explain_fit(wanted, swapped),
    )


def _list_parts(
    bench: Bench, tip: Tip, kit: Kit, cup: int, pinned: str | None
) -> tuple[TorchPart, ...]:
    """Return all parts in the order of assembly, with their stock."""
    shop = bench.shop
    known = shop.parts is not None

    def there(part: TorchPart) -> TorchPart:
        key = (part.kind, part.family, part.tungsten_mm, part.cup, part.fits)
        return TorchPart(*key, owned=key in shop.shelf if known else None)

    shield, body, collet = _list_fixed_parts(kit, tip.diameter_mm)
    caps = [length for family, length in shop.caps if family == kit.torch]
    tungsten = None if shop.tungstens is None else not _count_missing_tungsten(shop, tip, pinned)
    return (
        there(shield),
        there(body),
        there(TorchPart("cup", kit.cups, cup=cup, fits=kit.front_end)),
        there(collet),
        TorchPart("tungsten", "", tip.diameter_mm, owned=tungsten),
        TorchPart("back-cap", kit.torch, owned=bool(caps) if known else None),
    )


def _explain_fit(wanted: _Wanted, instead: tuple[Substitution, ...]) -> tuple[Reason, ...]:
    lead = [
        Estimate(
            "shelf-cover", "Out of stock: {w}. {why}.", w=substitution.wanted, why=substitution.why
        )
        for substitution in instead
    ]
    return (*lead, wanted.why)


def _list_torch_substitutions(wanted: _Wanted, fit: Fit) -> tuple[Substitution, ...]:
    front, cup = fit.kit.front_end, fit.cup
    if (front, cup) == (wanted.front_end, wanted.cup):
        return ()
    changes_front_end = wanted.front_end != front
    names = [
        Sentence("{f}no. {c}", f=f"{NAMES[f]} " if changes_front_end else "", c=c)
        for f, c in ((wanted.front_end, wanted.cup), (front, cup))
    ]
    covers = [size(cover_mm(f, c)) for f, c in ((wanted.front_end, wanted.cup), (front, cup))]
    argon = "; more argon" if cup > wanted.cup else ""
    enough = cover_mm(front, cup) >= wanted.band_mm
    text = (
        "With {u} the shield is {a} wide, enough for the hot width of {b}. With {w} it is"
        " {c}{argon}"
        if enough
        else "With {u} the shield covers {a} of the hot width of {b}, with {w} {c}{argon}"
    )
    why = Sentence(
        text, u=names[1], w=names[0], a=covers[1], c=covers[0], b=size(wanted.band_mm), argon=argon
    )
    return (Substitution("torch", names[0], names[1], why),)


def _list_tungsten_substitutions(wanted: _Wanted, fit: Fit) -> tuple[Substitution, ...]:
    usual = catalogue.load_tungsten_types()[DEFAULT_TYPE]
    if fit.tip.diameter_mm == wanted.tip.diameter_mm:
        if fit.type is usual:
            return ()
        return (
            Substitution(
                "tungsten",
                Sentence(usual.name),
                Sentence(fit.type.name),
                Sentence("{n}", n=fit.type.note),
            ),
        )
    sizes = [stock(t.diameter_mm) for t in (wanted.tip, fit.tip)]
    text = "{a}° carries {s} A" + (
        "; the arc wanders more at low current"
        if fit.tip.diameter_mm > wanted.tip.diameter_mm
        else "; its tip wears sooner"
    )
    why = Sentence(text, a=f"{fit.tip.included_angle_deg:g}", s=f"{fit.tip.steady_a[1]:g}")
    return (
        Substitution("tungsten", Sentence("{d}", d=sizes[0]), Sentence("{d}", d=sizes[1]), why),
    )
