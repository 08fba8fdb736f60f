"""What of the plan the shop has: machine and torch it is made on, the build part by part, what was
taken for want of other, what runs short before the seam is done.
"""

from collections.abc import Iterable
from functools import lru_cache
from typing import Annotated, ClassVar

from msgspec import Struct

from ... import catalogue
from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import Quantity, length, size, stock
from ...reasons import (
    Care,
    Caution,
    Choice,
    Estimate,
    Practice,
    Reason,
    Sentence,
    Substitution,
    WithFix,
    Words,
    store_text,
)
from ...schema.figures import Figure
from ...schema.json_types import Json
from ...shop.bench import Bench
from ..filler_metal.filler import Filler
from ..shielding.back import Back
from ..shielding.gas import Gas
from .fit import Fit, PartOf
from .front_end import bore_mm, cover_mm, outside_mm

TUNGSTEN_LENGTH_MM = 175.0
TUNGSTEN_CHECK = (
    "Check that it is ground lengthwise, slides freely in the collet and has the planned stick-out."
)
# families that a part need not be told by: the torch it lies beside says it
PLAIN_FAMILIES = ("small", "large")


class BuildPart(Struct, frozen=True):
    """A part of the torch in its order: what it is, in words, whether it is on the shelf (None: not
    entered); what it goes by (family, tungsten, cup, which front end a cup is for); how wide, long
    and open it is drawn, mm; how to see that it is right.
    """

    part: Annotated[str, Figure("Part")]
    text: Annotated[str, Figure("Description")]
    text_in: Annotated[str, Figure("Description, inches")]
    owned: Annotated[bool | None, Figure("In stock")]
    family: Annotated[str, Figure("Family")]
    tungsten_mm: Annotated[float | None, Figure("For tungsten", "stock")]
    cup: Annotated[int | None, Figure("Cup", "count")]
    fits: Annotated[str, Figure("Cup for")]
    width_mm: Annotated[float, Figure("Width in the drawing", "length")]
    length_mm: Annotated[float, Figure("Length in the drawing", "length")]
    bore_mm: Annotated[float, Figure("Opening in the drawing", "length")]
    check: Annotated[str, Figure("Check")]
    check_in: Annotated[str, Figure("Check, inches")]


class StockSubstitution(Struct, frozen=True):
    """What was taken for want of other: the answer, both in words, what the difference costs."""

    answer: Annotated[str, Figure("Answer")]
    wanted: Annotated[str, Figure("Needed part")]
    wanted_in: Annotated[str, Figure("Needed part, inches")]
    used: Annotated[str, Figure("Used")]
    used_in: Annotated[str, Figure("Used, inches")]
    why: Annotated[str, Figure("Effect")]
    why_in: Annotated[str, Figure("Effect, inches")]


class Shortage(Struct, frozen=True):
    """What runs short: the item, how much the seam needs and how much there is."""

    item: Annotated[str, Figure("Item")]
    item_in: Annotated[str, Figure("Item, inches")]
    need: Annotated[float, Figure("Needed", "plain", 2)]
    have: Annotated[float, Figure("In stock", "plain", 2)]
    unit: Annotated[str, Figure("Unit")]


class Build(Choice, frozen=True, kw_only=True):
    """Whether anything of the shop was entered; machine and torch ("" : assumed); the build; what
    was taken instead; what is short; litres of argon in the cylinder it runs from, and where in the
    seam that ends mm (None: it lasts, or was not entered).
    """

    part: ClassVar[str] = "shop"
    answer: ClassVar[str] = "torch"
    entered: Annotated[bool, Figure("Shop entered")]
    machine: Annotated[str, Figure("Machine")]
    torch: Annotated[str, Figure("Torch of the shop")]
    least_a: Annotated[float, Figure("Machine minimum", "current", 1)]
    most_a: Annotated[float, Figure("Machine maximum", "current", 1)]
    build: Annotated[tuple[BuildPart, ...], Figure("Build", holds=BuildPart)]
    instead: Annotated[
        tuple[StockSubstitution, ...], Figure("Substitutions", holds=StockSubstitution)
    ]
    short: Annotated[tuple[Shortage, ...], Figure("Shortages", holds=Shortage)]
    cylinder_l: Annotated[float | None, Figure("Argon in stock", "volume", 0)]
    ends_at_mm: Annotated[float | None, Figure("Argon ends at", "size", 0)]


def summarise_stock(
    joint: Joint,
    section: Section,
    bench: Bench,
    fit: Fit,
    filler: Filler,
    back: Back,
    gas: Gas,
    choices: Iterable[Choice],
) -> Build:
    """What of the plan the shop has. Sizes of parts as they are drawn: estimates; what goes with
    what: common practice.
    """
    there = bench.shop.tungsten_stock.get(fit.tip.diameter_mm, ())
    long = max((one.length_mm for one in there), default=TUNGSTEN_LENGTH_MM)
    cap = _find_cap(bench, fit.torch.row.family)
    parts = tuple(_build_part(part, cap, long) for part in fit.parts)
    cylinder, ends = _measure_cylinder(bench, gas, section)
    short = (
        *_find_rod_shortage(bench, filler),
        *_find_bar_shortage(bench, back),
        *_find_missing_parts(fit),
        *_find_argon_shortage(cylinder, ends, gas),
    )
    return Build(
        entered=bench.shop.entered,
        machine=bench.machine.name,
        torch=fit.torch.name,
        least_a=bench.machine.least_a,
        most_a=bench.machine.most_a,
        build=parts,
        instead=tuple(_build_substitution(i) for c in choices for i in c.swaps),
        short=short,
        cylinder_l=cylinder,
        ends_at_mm=ends,
        why=tuple(_explain_stock(bench, fit)),
        cautions=(*_check_missing_parts(joint, fit), *_check_shortages(short, filler, gas, ends)),
    )


def _store_both_units(key: str, words: Words) -> dict[str, str]:
    texts = store_text(words)
    return {key: texts.mm, f"{key}_in": texts.inch}


def _build_substitution(one: Substitution) -> StockSubstitution:
    return StockSubstitution(
        answer=one.answer,
        **_store_both_units("wanted", one.wanted),
        **_store_both_units("used", one.used),
        **_store_both_units("why", one.why),
    )


@lru_cache(maxsize=512)
def _build_part(part: PartOf, cap: str, tungsten_long_mm: float) -> BuildPart:
    """A part as it is told and drawn. Parameters: cap, how long the back cap there is; how long the
    tungsten is, mm.
    """
    words, check, wide, long = (
        _describe_tungsten(part, tungsten_long_mm)
        if part.kind == "tungsten"
        else _describe_part(part, cap, tungsten_long_mm)
    )
    bore = (
        bore_mm(part.cup)
        if part.cup
        else 0.0
        if part.kind == "tungsten"
        else part.tungsten_mm or 0.0
    )
    return BuildPart(
        part=part.kind,
        owned=part.owned,
        family=part.family,
        tungsten_mm=part.tungsten_mm,
        cup=part.cup,
        fits=part.fits or "",
        **_store_both_units("text", words),
        width_mm=round(wide, 2),
        length_mm=round(long, 2),
        bore_mm=round(bore, 2),
        **_store_both_units("check", check),
    )


def _describe_part(
    part: PartOf, cap: str, tungsten_long_mm: float
) -> tuple[Words, Words, float, float]:
    """A part of the catalogue: its words, how to see that it is right, how wide and long it is
    drawn, mm.
    """
    kind = catalogue.load_part_kinds()[part.kind]
    wide, long = kind.sizes[part.family]
    if part.cup:
        wide = outside_mm(part.cup)
    if not (kind.has("caps") and cap):
        return format_part(part), Sentence("{k}", k=kind.note), wide, long
    room = catalogue.cap_room_mm()[cap]
    # one that takes no whole tungsten takes one that is cut to suit
    cut = "{k} Cut the tungsten to at most {room} for it." if tungsten_long_mm > room else "{k}"
    return (
        Sentence("{c} {n}", c=cap, n=format_part(part)),
        Sentence(cut, k=kind.note, room=length(room)),
        wide,
        long,
    )


def _describe_tungsten(part: PartOf, long: float) -> tuple[Words, Words, float, float]:
    d = part.tungsten_mm or 0.0
    return Sentence("tungsten {d}", d=stock(d)), Sentence("{k}", k=TUNGSTEN_CHECK), d, long


def format_part(part: PartOf) -> Words:
    """A part in words: "gas lens 1.6 mm", "cup no. 8"."""
    kind = catalogue.load_part_kinds()[part.kind]
    if kind.has("numbered"):
        return Sentence(
            "{n} no. {c}, {f}",
            n=kind.name,
            c=part.cup,
            f="for a gas lens" if part.fits == "gas-lens" else "for a collet body",
        )
    family = " (stubby)" if part.family not in PLAIN_FAMILIES else ""
    if kind.has("for_tungsten"):
        return Sentence("{n}{f} {d}", n=kind.name, f=family, d=stock(part.tungsten_mm or 0.0))
    return Sentence("{n}{f}", n=kind.name, f=family)


def _find_cap(bench: Bench, family: str) -> str:
    """The longest back cap of a family there is, "" where none was entered or lies there."""
    lengths = {length for of, length in bench.shop.caps if of == family}
    return next((key for key in catalogue.cap_room_mm() if key in lengths), "")


def _explain_stock(bench: Bench, fit: Fit) -> list[Reason]:
    shop = bench.shop
    if not shop.entered:
        words = "Assumes a machine from {a} to {b} A with pulse, and a no. {n} torch."
        return [
            Estimate(
                "assumed-shop",
                words,
                a=f"{bench.machine.least_a:g}",
                b=f"{bench.machine.most_a:g}",
                n=fit.torch.size,
            )
        ]
    named = " with ".join(
        name
        for name in (
            bench.machine.name or "an assumed machine",
            fit.torch.name or "an assumed torch",
        )
    )
    found: list[Reason] = [Practice("On {m}.", m=named)]
    on_the_bench = shop.bench_machine in ("", bench.machine.name) and shop.bench_torch in (
        "",
        fit.torch.name,
    )
    if not on_the_bench:
        words = "Not the equipment in use ({a}): it does not suit this joint."
        found.append(
            Practice(
                words, a=", ".join(name for name in (shop.bench_machine, shop.bench_torch) if name)
            )
        )
    return found


def _find_rod_shortage(bench: Bench, filler: Filler) -> list[Shortage]:
    if bench.shop.rods is None or filler.rod is None:
        return []
    have = sum(
        one.count
        for one in bench.shop.rod_stock.get(filler.rod, ())
        if one.diameter_mm == filler.diameter_mm
    )
    if have >= filler.rods:
        return []
    item = Sentence("{r} {d}", r=filler.rod, d=stock(filler.diameter_mm or 0.0))
    return [Shortage(**_store_both_units("item", item), need=filler.rods, have=have, unit="rods")]


def _find_bar_shortage(bench: Bench, back: Back) -> list[Shortage]:
    """Bars of the cover's metal, of which a seam takes one length at a time on each face."""
    cover = catalogue.back_covers()[back.cover]
    if not cover.metal or bench.shop.bars is None:
        return []
    have = sum(b.count for b in bench.shop.bars if b.metal == cover.metal)
    return (
        []
        if have
        else [
            Shortage(
                **_store_both_units("item", Sentence(cover.name)), need=1, have=0, unit="pieces"
            )
        ]
    )


def _find_missing_parts(fit: Fit) -> list[Shortage]:
    found = []
    for part in fit.missing:
        words = (
            Sentence("tungsten {d}", d=stock(part.tungsten_mm or 0.0))
            if part.kind == "tungsten"
            else format_part(part)
        )
        found.append(Shortage(**_store_both_units("item", words), need=1, have=0, unit="pieces"))
    return found


def _measure_cylinder(
    bench: Bench, gas: Gas, section: Section
) -> tuple[float | None, float | None]:
    """What the fullest cylinder of argon gives, L, and where in the seam it ends, mm (None: it
    lasts).
    """
    if bench.shop.cylinders is None:
        return None, None
    have = bench.shop.fullest_l.get(gas.gas, 0.0)
    return have, None if have >= gas.argon_l else section.length_mm * have / gas.argon_l


def _find_argon_shortage(have: float | None, ends: float | None, gas: Gas) -> list[Shortage]:
    if have is None or ends is None:
        return []
    return [
        Shortage(
            **_store_both_units("item", Sentence("argon")), need=gas.argon_l, have=have, unit="L"
        )
    ]


def _check_missing_parts(joint: Joint, fit: Fit) -> list[Caution]:
    """The build lacks a part: which, and the nearest one that is whole."""
    if not fit.missing:
        return []
    names = [
        (
            Sentence("tungsten {d}", d=stock(p.tungsten_mm or 0.0))
            if p.kind == "tungsten"
            else format_part(p)
        )
        for p in fit.missing
    ]
    listed = Sentence(
        "; ".join(f"{{p{i}}}" for i in range(len(names))),
        **{f"p{i}": name for i, name in enumerate(names)},
    )
    words = (
        "Out of stock: {parts}. You have no good substitute. Get these before you build the torch."
    )
    if fit.nearest is None:
        return [Care("not-on-shelf", "torch", words, parts=listed)]
    near = fit.nearest
    whole = "is in stock" if not near.missing else "needs fewer missing parts"
    words = "Out of stock: {parts}. A no. {c} {n} on {d} {whole}. It shields {covers}."
    figures = {
        "c": near.cup,
        "n": near.kit.name,
        "d": stock(near.tip.diameter_mm),
        "whole": whole,
        "covers": size(cover_mm(near.kit.front_end, near.cup)),
    }
    item = Care("not-on-shelf", "torch", words, parts=listed, **figures)
    sets: dict[str, Json] = {
        "pins.cup": near.cup,
        "pins.front_end": near.kit.front_end,
        "pins.tungsten_mm": near.tip.diameter_mm,
    }
    if "tungsten_type" in joint.pins:
        sets["pins.tungsten_type"] = None
    return [WithFix(item, f"Use a no. {near.cup} instead", **sets)]


def _check_shortages(
    short: tuple[Shortage, ...], filler: Filler, gas: Gas, ends: float | None
) -> list[Caution]:
    found: list[Caution] = []
    for one in short:
        if one.unit == "rods":
            item = Sentence("{r} {d}", r=filler.rod, d=stock(filler.diameter_mm or 0.0))
            words = (
                "This seam needs {n} of {r}, but only {h} are in stock. The rod runs out in "
                "the middle. Get more before you start."
            )
            if not one.have:
                words = (
                    "{r} is out of stock, and no other rod in stock suits this joint. This seam "
                    "needs {n}. Get it before you start."
                )
            found.append(
                Care("rod-short", "filler", words, n=f"{one.need:g}", r=item, h=f"{one.have:g}")
            )
    if ends is not None:
        words = (
            "The cylinder holds {h} L, but this seam needs {n}. It runs out {e} into "
            "the seam. Change it before you start."
        )
        found.append(
            Care(
                "argon-short",
                "gas",
                words,
                h=f"{max(0.0, _get_stock(short)):.0f}",
                n=Quantity(gas.argon_l, "volume"),
                e=size(ends),
            )
        )
    return found


def _get_stock(short: tuple[Shortage, ...]) -> float:
    return next((one.have for one in short if one.unit == "L"), 0.0)
