"""The plan within the stock.

Machine and torch, the torch parts, substitutions, and shortages for the seam.
"""

from collections.abc import Iterable
from functools import lru_cache
from typing import Annotated, Any, ClassVar

from msgspec import Struct

from ... import catalogue
from ...catalogue.rows import TungstenType
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
from .fit import Fit, TorchPart
from .front_end import bore_mm, cover_mm, outside_mm

TUNGSTEN_LENGTH_MM = 175.0
TUNGSTEN_CHECK = (
    "Check that it is ground lengthwise, slides freely in the collet and has the planned stick-out."
)
# Families that are not named with a part, because the torch next to it shows them.
PLAIN_FAMILIES = ("small", "large")


class BuildPart(Struct, frozen=True):
    """A torch part in order.

    Description, whether it is in stock (None: unknown), its identity (family, tungsten, cup, front
    end), its drawn width, length and opening mm, and its check.
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
    """A substitution: the answer, both values in words, and the effect."""

    answer: Annotated[str, Figure("Answer")]
    wanted: Annotated[str, Figure("Needed part")]
    wanted_in: Annotated[str, Figure("Needed part, inches")]
    used: Annotated[str, Figure("Used")]
    used_in: Annotated[str, Figure("Used, inches")]
    why: Annotated[str, Figure("Effect")]
    why_in: Annotated[str, Figure("Effect, inches")]


class Shortage(Struct, frozen=True):
    """A shortage: the item, the amounts needed and in stock."""

    item: Annotated[str, Figure("Item")]
    item_in: Annotated[str, Figure("Item, inches")]
    need: Annotated[float, Figure("Needed", "plain", 2)]
    have: Annotated[float, Figure("In stock", "plain", 2)]
    unit: Annotated[str, Figure("Unit")]


class Build(Choice, frozen=True, kw_only=True):
    """The equipment.

    Whether any list is known, machine and torch ("": assumed), parts, substitutions, shortages,
    argon in the cylinder L, and the position in the seam at which it ends mm (None: sufficient or
    unknown).
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
    """Summarise the stock for a plan.

    Drawn sizes: estimates. Matching parts: common practice.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        fit: The torch.
        filler: The filler metal.
        back: The root cover.
        gas: The gas.
        choices: All choices, for their substitutions.
    """
    in_stock = bench.shop.tungsten_stock.get(fit.tip.diameter_mm, ())
    long = max((tungsten.length_mm for tungsten in in_stock), default=TUNGSTEN_LENGTH_MM)
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
        cautions=(
            *_check_missing_parts(joint, bench, fit),
            *_check_shortages(short, filler, gas, ends),
        ),
    )


def _store_both_units(key: str, text: Words) -> dict[str, str]:
    texts = store_text(text)
    return {key: texts.mm, f"{key}_in": texts.inch}


def _build_substitution(substitution: Substitution) -> StockSubstitution:
    return StockSubstitution(
        answer=substitution.answer,
        **_store_both_units("wanted", substitution.wanted),
        **_store_both_units("used", substitution.used),
        **_store_both_units("why", substitution.why),
    )


@lru_cache(maxsize=512)
def _build_part(part: TorchPart, cap: str, tungsten_long_mm: float) -> BuildPart:
    """Return a part with its description and drawing.

    `cap` is the length of the back cap, and `tungsten_long_mm` that of the tungsten.
    """
    text, check, wide, long = (
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
        **_store_both_units("text", text),
        width_mm=round(wide, 2),
        length_mm=round(long, 2),
        bore_mm=round(bore, 2),
        **_store_both_units("check", check),
    )


def _describe_part(
    part: TorchPart, cap: str, tungsten_long_mm: float
) -> tuple[Words, Words, float, float]:
    """Return the description, the check and the drawn width and length, mm, of a part."""
    kind = catalogue.load_part_kinds()[part.kind]
    wide, long = kind.sizes[part.family]
    if part.cup:
        wide = outside_mm(part.cup)
    if not (kind.has("caps") and cap):
        return format_part(part), Sentence("{k}", k=kind.note), wide, long
    room = catalogue.cap_room_mm()[cap]
    # A cap too short for a full tungsten takes a shortened one.
    cut = "{k} Cut the tungsten to at most {room} for it." if tungsten_long_mm > room else "{k}"
    return (
        Sentence("{c} {n}", c=cap, n=format_part(part)),
        Sentence(cut, k=kind.note, room=length(room)),
        wide,
        long,
    )


def _describe_tungsten(part: TorchPart, long: float) -> tuple[Words, Words, float, float]:
    d = part.tungsten_mm or 0.0
    return Sentence("tungsten {d}", d=stock(d)), Sentence("{k}", k=TUNGSTEN_CHECK), d, long


def format_part(part: TorchPart) -> Words:
    """Return the name of a part: "gas lens 1.6 mm", "cup no. 8"."""
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
    """Return the longest back cap of a family in stock, or ""."""
    lengths = {length for of, length in bench.shop.caps if of == family}
    return next((key for key in catalogue.cap_room_mm() if key in lengths), "")


def _explain_stock(bench: Bench, fit: Fit) -> list[Reason]:
    shop = bench.shop
    if not shop.entered:
        text = "Assumes a machine from {a} to {b} A with pulse, and a no. {n} torch."
        return [
            Estimate(
                "assumed-shop",
                text,
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
    reasons: list[Reason] = [Practice("On {m}.", m=named)]
    on_the_bench = shop.bench_machine in ("", bench.machine.name) and shop.bench_torch in (
        "",
        fit.torch.name,
    )
    if not on_the_bench:
        text = "Not the equipment in use ({a}): it does not suit this joint."
        reasons.append(
            Practice(
                text, a=", ".join(name for name in (shop.bench_machine, shop.bench_torch) if name)
            )
        )
    return reasons


def _find_rod_shortage(bench: Bench, filler: Filler) -> list[Shortage]:
    if bench.shop.rods is None or filler.rod is None:
        return []
    have = sum(
        rod_stock.count
        for rod_stock in bench.shop.rod_stock.get(filler.rod, ())
        if rod_stock.diameter_mm == filler.diameter_mm
    )
    if have >= filler.rods:
        return []
    item = Sentence("{r} {d}", r=filler.rod, d=stock(filler.diameter_mm or 0.0))
    return [Shortage(**_store_both_units("item", item), need=filler.rods, have=have, unit="rods")]


def _find_bar_shortage(bench: Bench, back: Back) -> list[Shortage]:
    """Return the shortage of bars.

    A seam needs one length at a time on each face.
    """
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
    parts = []
    for part in fit.missing:
        text = (
            Sentence("tungsten {d}", d=stock(part.tungsten_mm or 0.0))
            if part.kind == "tungsten"
            else format_part(part)
        )
        parts.append(Shortage(**_store_both_units("item", text), need=1, have=0, unit="pieces"))
    return parts


def _measure_cylinder(
    bench: Bench, gas: Gas, section: Section
) -> tuple[float | None, float | None]:
    """Return the contents of the fullest argon cylinder, L, and the position of its end, mm.

    The position is in the seam. None: sufficient.
    """
    if bench.shop.cylinders is None:
        return None, None
    have = bench.shop.max_cylinder_l.get(gas.gas, 0.0)
    return have, None if have >= gas.argon_l else section.length_mm * have / gas.argon_l


def _find_argon_shortage(have: float | None, ends: float | None, gas: Gas) -> list[Shortage]:
    if have is None or ends is None:
        return []
    return [
        Shortage(
            **_store_both_units("item", Sentence("argon")), need=gas.argon_l, have=have, unit="L"
        )
    ]


def _find_radioactive(bench: Bench, fit: Fit) -> TungstenType | None:
    """Return a tungsten in stock that needs a mask at the grinder, if only a tungsten lacks."""
    if [part.kind for part in fit.missing] != ["tungsten"]:
        return None
    have = {t.type for t in bench.shop.tungsten_stock.get(fit.tip.diameter_mm, ()) if t.count}
    types = catalogue.load_tungsten_types().values()
    return next((row for row in types if row.radioactive and row.key in have), None)


def _check_missing_parts(joint: Joint, bench: Bench, fit: Fit) -> list[Caution]:
    """Return the caution for a missing part, with the nearest complete torch."""
    if not fit.missing:
        return []
    radioactive = _find_radioactive(bench, fit)
    if radioactive is not None:
        text = (
            "Only {name} of {d} is in stock. It welds as well, but its grinding dust is "
            "radioactive. Grind it wet or with extraction, or get another type."
        )
        figures: dict[str, Any] = {"name": radioactive.name, "d": stock(fit.tip.diameter_mm)}
        item = Care("not-on-shelf", "torch", text, **figures)
        how = f"Use {radioactive.name}"
        return [WithFix(item, how, **{"pins.tungsten_type": radioactive.key})]
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
    text = (
        "Out of stock: {parts}. You have no good substitute. Get these before you build the torch."
    )
    if fit.nearest is None:
        return [Care("not-on-shelf", "torch", text, parts=listed)]
    near = fit.nearest
    benefit = "is in stock" if not near.missing else "needs fewer missing parts"
    text = "Out of stock: {parts}. A no. {c} {n} on {d} {whole}. It shields {covers}."
    figures = {
        "c": near.cup,
        "n": near.kit.name,
        "d": stock(near.tip.diameter_mm),
        "whole": benefit,
        "covers": size(cover_mm(near.kit.front_end, near.cup)),
    }
    item = Care("not-on-shelf", "torch", text, parts=listed, **figures)
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
    cautions: list[Caution] = []
    for shortage in short:
        if shortage.unit == "rods":
            item = Sentence("{r} {d}", r=filler.rod, d=stock(filler.diameter_mm or 0.0))
            text = (
                "This seam needs {n} of {r}, but only {h} are in stock. The rod runs out in "
                "the middle. Get more before you start."
            )
            if not shortage.have:
                text = (
                    "{r} is out of stock, and no other rod in stock suits this joint. This seam "
                    "needs {n}. Get it before you start."
                )
            cautions.append(
                Care(
                    "rod-short",
                    "filler",
                    text,
                    n=f"{shortage.need:g}",
                    r=item,
                    h=f"{shortage.have:g}",
                )
            )
    if ends is not None:
        text = (
            "The cylinder holds {h} L, but this seam needs {n}. It runs out {e} into "
            "the seam. Change it before you start."
        )
        cautions.append(
            Care(
                "argon-short",
                "gas",
                text,
                h=f"{max(0.0, _get_stock(short)):.0f}",
                n=Quantity(gas.argon_l, "volume"),
                e=size(ends),
            )
        )
    return cautions


def _get_stock(short: tuple[Shortage, ...]) -> float:
    return next((shortage.have for shortage in short if shortage.unit == "L"), 0.0)
