"""The torch's front end: lens or plain, cup, stick-out with its limits, what stays uncovered."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import ClassVar

from .. import catalogue
from ..figures import ByHand, SetOn, figure
from ..gas import bore_mm
from ..joint import Joint
from ..quantities import length, size
from ..reasons import (
    Caution,
    Choice,
    Other,
    Reason,
    caution,
    estimate,
    instead,
    mended,
    note,
    practice,
    ruled,
    say,
    stop,
)
from ..section import Section
from ..shop import Shop
from .reach import PAST_REACH_MM, opening_deg, outside_mm, stickout_mm
from .warmth import Warmth

LENS_MOST_MM = 16.0
LENS_CAUTION_MM = 19.0
BIG_LENS_CAUTION_MM = 25.0
BIG_LENS_FROM = 14
CAUTION_IN_BORES = 1.5
PLAIN_SOUND_MM = 6.4
PLAIN_MOST_MM = 9.5
COVER_BORES = {"gas-lens": 1.5, "plain": 1.0}
NAMES = {"gas-lens": "gas lens", "plain": "plain collet body"}
SHOW_CUPS, SOUND_CUP, STEEL_CUP = (8, 10, 12), 8, 7
OFFERED_CUPS = (6, 8, 10, 12, 16)
LONG_SEAM_MM = 150.0
UNCOVERED_FROM_MM = 0.5
SLACK_MM = 1e-9


@dataclass(frozen=True, kw_only=True)
class Torch(Choice):
    """Front end and its name, cup number and bore mm, stick-out and its sound limit mm (of a cope that at its heel, and at its
    toe), what the cup covers and what it does not mm; the torch it is for."""

    part: ClassVar[str] = "torch"
    answer: ClassVar[str] = "torch"
    label: ClassVar[str] = "Torch"
    front_end: str = figure("Front end", pin=ByHand("front_end", allowed=("gas-lens", "plain")))
    front_end_name: str = figure("Torch")
    cup: int = figure("Cup", "count", positive=True, pin=ByHand("cup", allowed=tuple(catalogue.cups())), run=SetOn("cup", "Cup", 3, 24, part="used"))  # fmt: skip
    bore_mm: float = figure("Bore", "length", 2, positive=True)
    stickout_mm: float = figure("Stick-out", "size", 2, positive=True, pin=ByHand("stickout_mm", 1, 40))
    stickout_limit_mm: float = figure("Sound stick-out", "size", 2)
    toe_stickout_mm: float | None = figure("Stick-out at the toe", "size", 2)
    cover_mm: float = figure("Cup covers", "size", 1, positive=True, compared="Cup covers")
    uncovered_mm: float = figure("Uncovered", "size", 1)
    tail_uncovered_mm: float = figure("Tail uncovered", "size", 1)
    torch: str = figure("Torch size")

    def words(self) -> tuple[str, str]:
        toe = " at the heel, {toe_stickout_mm} at the toe" if self.toe_stickout_mm is not None else ""
        return "{front_end_name}, no. {cup}", f"{{stickout_mm}} out{toe}, sound to {{stickout_limit_mm}}"


def choose_torch(joint: Joint, section: Section, shop: Shop, warmth: Warmth) -> Torch:
    """Choose the front end. Common practice; cover in bores, reach by geometry: estimates."""
    front = joint.pinned("front_end", _front_end(joint, section))
    own, why = _cup(joint, section, warmth.hot_band_mm, front)
    cup = joint.pinned("cup", own)
    if "cup" in joint.pins:
        why = practice("No. {cup} set by hand; the plan's own is no. {own}.", cup=cup, own=own)
    stickout, bore = stickout_mm(joint, cup), bore_mm(cup)
    cover = COVER_BORES[front] * bore
    torch = Torch(
        front_end=front, front_end_name=NAMES[front], cup=cup, bore_mm=bore, stickout_mm=stickout, stickout_limit_mm=limits_mm(front, cup)[0],
        toe_stickout_mm=_toe_mm(joint, cup), cover_mm=cover, uncovered_mm=max(0.0, warmth.hot_band_mm - cover),
        tail_uncovered_mm=max(0.0, warmth.tail_mm - cover / 2), torch=shop.torch, others=_others(front, cup),
        why=(
            why, _cover_reason(front, cover, warmth.hot_band_mm), _front_reason(section, front),
            _stickout_reason(joint, front, cup, stickout, limits_mm(front, cup)[0]), *_family_reasons(shop),
        ),
    )  # fmt: skip
    return _with_cautions(torch, joint, section, warmth)


def _toe_mm(joint: Joint, cup: int) -> float | None:
    """Stick-out at the toe of a cope, mm, which opens 180° − θ; None where nothing is coped or the reach is told."""
    if not joint.kind.has("cope") or joint.reach is not None or "stickout_mm" in joint.pins:
        return None
    return stickout_mm(joint, cup, 180 - joint.angle_deg)


def limits_mm(front: str, cup: int) -> tuple[float, float]:
    """Sound stick-out and the most before it is refused, mm. Common practice.

    Plain: to the bore and 6.4, refused past 9.5. Lens: to the bore and 16; to 1.5 bores and 19, 25 from no. 14.
    """
    bore = bore_mm(cup)
    if front == "plain":
        return min(bore, PLAIN_SOUND_MM), PLAIN_MOST_MM
    most = BIG_LENS_CAUTION_MM if cup >= BIG_LENS_FROM else LENS_CAUTION_MM
    return min(bore, LENS_MOST_MM), min(CAUTION_IN_BORES * bore, most)


def _front_end(joint: Joint, section: Section) -> str:
    short = stickout_mm(joint, joint.pinned("cup", STEEL_CUP)) <= PLAIN_SOUND_MM
    return "plain" if section.stainless_sides == 0 and short and joint.finish == "sound" else "gas-lens"


def _cup(joint: Joint, section: Section, band: float, front: str) -> tuple[int, Reason]:
    """The cup for what is to be covered, or another that reaches in better."""

    def covers(cup: int) -> bool:
        return COVER_BORES[front] * bore_mm(cup) >= band

    if section.stainless_sides == 0:
        cup, why = STEEL_CUP, "No. 7, all-round for steel."
    elif joint.finish == "show":
        cup = next((c for c in SHOW_CUPS if covers(c)), SHOW_CUPS[-1])
        why = (
            "No. {c}: the smallest that covers the hot band for show."
            if covers(cup)
            else "No. {c}, the widest for a whole seam; no. 14 to 16 eat argon."
        )
    else:
        cup, why = SOUND_CUP, "No. {c}: with a lens the stainless default."
    if joint.kind.has("splits_gas"):
        cup = next((c for c in catalogue.cups() if c > cup), cup)
        why = "No. {c}: on an edge the sheet splits the gas, so one size up."
    if stickout_mm(joint, cup) > limits_mm(front, cup)[0] + SLACK_MM:
        wanted = cup
        cup = min(catalogue.cups(), key=lambda c: (*_beyond_mm(joint, front, c), abs(c - wanted)))
        why = "No. {c}: of all cups it bears the reach best, {s} out."
    return cup, practice(why, c=cup, s=size(stickout_mm(joint, cup)))


def _beyond_mm(joint: Joint, front: str, cup: int) -> tuple[float, float]:
    """How far a cup's stick-out lies past its most, and past what is sound, mm."""
    out, (sound, most) = stickout_mm(joint, cup), limits_mm(front, cup)
    return max(0.0, out - most), max(0.0, out - sound)


def _cover_reason(front: str, cover: float, band: float) -> Reason:
    said = estimate("cup-cover", "Covers {c} across; the hot band is {b}.", c=size(cover), b=size(band))
    rule = "cover = 1.5 bores with a lens, 1 bore plain"
    return ruled(said, rule, "{n} × bore = {c}", n=f"{COVER_BORES[front]:g}", c=size(cover))


def _front_reason(section: Section, front: str) -> Reason:
    if front == "plain":
        return practice("A plain collet body is fine for short stick-out and tight budgets.")
    what = "for looks, and for a long stick-out" if section.stainless_sides == 0 else "the default for stainless"
    return practice("A gas lens sends the argon out in a smooth column: {what}.", what=what)


def _stickout_reason(joint: Joint, front: str, cup: int, stickout: float, sound: float) -> Reason:
    figures = {"s": size(stickout), "f": NAMES[front], "l": size(sound), "c": cup}
    if "stickout_mm" in joint.pins:
        return practice("{s} out, set by hand; this {f} is sound to {l}.", **figures)
    opens = opening_deg(joint) if joint.reach is None else None
    if opens is None:
        words = "{s} out, to reach the joint and see; this {f} is sound to {l}."
        said = estimate("reach-by-joint" if joint.reach is None else "stickout-default", words, **figures)
        return ruled(
            said, "stick-out = reach + 1 mm", "{r} + 1 mm = {s}", r=size(stickout - PAST_REACH_MM), s=size(stickout)
        )
    where = "at the heel, at most" if joint.kind.has("cope") else "there"
    words = "{s} out: a no. {c} rests on both sides of an opening of {a}° {where}; this {f} is sound to {l}."
    said = estimate("cut-reach", words, a=f"{opens:g}", where=where, **figures)
    rule = "stick-out = 1.07 · r / tan(θ/2) − arc, 5 mm at least"
    return ruled(said, rule, "r {r}, θ {a}°: {s}", r=length(outside_mm(cup) / 2), a=f"{opens:g}", s=size(stickout))


@lru_cache(maxsize=16)
def _family_reasons(shop: Shop) -> tuple[Reason, ...]:
    torch = shop.torch_row
    words = "Reckoned for a no. {n} torch: {family} family of parts, {cooling}, {r} A."
    swap = "Parts of the small and the large family do not swap, nor cups between plain body and lens; a stubby lens kit puts small cups on a large torch."
    figures = {"family": torch.family, "cooling": "water-cooled" if torch.water else "air-cooled"}
    return estimate("assumed-shop", words, n=torch.key, r=f"{torch.rating_a:.0f}", **figures), practice(swap)


@lru_cache(maxsize=64)
def _others(front: str, cup: int) -> tuple[Other, ...]:
    other, words = (
        ("plain", "Cheaper, shorter stick-out, a rougher jet: {m} at most.")
        if front == "gas-lens"
        else ("gas-lens", "Smooth gas, longer stick-out; screens that spatter spoils.")
    )
    found = [instead(say("{n}", n=NAMES[other]), {"pins.front_end": other}, words, m=length(PLAIN_SOUND_MM))]
    for number, text in catalogue.cups().items():
        if number != cup and number in OFFERED_CUPS:
            found.append(instead(say("no. {c}", c=number), {"pins.cup": number}, text))
    return tuple(found)


def _with_cautions(torch: Torch, joint: Joint, section: Section, warmth: Warmth) -> Torch:
    found = [*_stickout_cautions(torch, joint)]
    if joint.finish == "show" and section.stainless_sides:
        found += _uncovered(torch, joint, warmth)
    if torch.cup >= BIG_LENS_FROM and section.length_mm > LONG_SEAM_MM:
        found.append(note("cup-eats-argon", "torch", "A no. {c} eats argon: not for the whole job.", c=torch.cup))
    return replace(torch, cautions=tuple(found))


def _stickout_cautions(torch: Torch, joint: Joint) -> list[Caution]:
    sound, most = limits_mm(torch.front_end, torch.cup)
    figures = {
        "s": size(torch.stickout_mm),
        "c": torch.cup,
        "f": torch.front_end_name,
        "m": size(most),
        "l": size(sound),
    }
    if torch.stickout_mm <= sound + SLACK_MM:
        return []
    keys = {f"pins.{key}": None for key in ("stickout_mm", "cup", "front_end") if key in joint.pins}
    measured = max(1.0, float(f"{sound - PAST_REACH_MM - 0.05:.1f}"))
    release, how = (
        (keys, "Go by the plan's torch") if keys else ({"reach": f"{measured:g} mm"}, "Measured: less, and sound")
    )
    bound = joint.kind.has("cope") and torch.toe_stickout_mm is not None
    if torch.stickout_mm > most + SLACK_MM and not bound:
        mend = (
            "Fit a gas lens, or a bigger cup."
            if torch.front_end == "plain"
            else "Open the joint, get closer, or measure with your own cup."
        )
        words = "{s} out of a no. {c} {f}: past {m} air reaches the tungsten. {mend}"
        return [mended(stop("stickout-too-long", "torch", words, mend=mend, **figures), how, **release)]
    words = (
        "{s} out at the heel is past the sound {l} of a no. {c} {f}; it is the most it can be: measure there, dab the heel last, still air."
        if bound
        else "{s} out is past the sound {l} of a no. {c} {f}: still air only, watch the pool swim. A bigger lens or a shorter reach holds better."
    )
    return [mended(caution("stickout-caution", "torch", words, **figures), how, **release)]


def _uncovered(torch: Torch, joint: Joint, warmth: Warmth) -> list[Caution]:
    found = []
    if torch.uncovered_mm > UNCOVERED_FROM_MM:
        words = "{u} of the hot band lies outside the cup's cover and will colour: a wider lens, or clean it after."
        item = caution("cover-short", "torch", words, u=size(torch.uncovered_mm))
        wider = next((c for c in catalogue.cups() if COVER_BORES["gas-lens"] * bore_mm(c) >= warmth.hot_band_mm), None)
        if wider is not None and "cup" in joint.pins:
            found.append(mended(item, f"Take a no. {wider} lens", **{"pins.cup": wider, "pins.front_end": None}))
        elif "cup" in joint.pins or "front_end" in joint.pins:
            found.append(mended(item, "Go by the plan's torch", **{"pins.cup": None, "pins.front_end": None}))
        else:
            found.append(note("cover-short", "torch", words, u=size(torch.uncovered_mm)))
    if torch.tail_uncovered_mm > torch.cover_mm / 2:
        words = "{t} of seam behind the cup is still hot when the gas has passed: a trailing cover keeps it silver, a little straw is normal."
        found.append(note("tail-uncovered", "torch", words, t=size(torch.tail_uncovered_mm)))
    return found
