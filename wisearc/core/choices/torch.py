"""The torch's front end: lens or plain, cup, stick-out with its limits, what stays uncovered."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import ClassVar

from .. import catalogue
from ..figures import ByHand, figure
from ..gas import bore_mm
from ..joint import Joint
from ..quantities import length, size
from ..reasons import Caution, Choice, Other, Reason, caution, estimate, instead, note, practice, ruled, say, stop
from ..section import Section
from ..shop import Shop
from .warmth import Warmth

LENS_MOST_MM = 16.0
LENS_CAUTION_MM = 19.0
BIG_LENS_CAUTION_MM = 25.0
BIG_LENS_FROM = 14
CAUTION_IN_BORES = 1.5
PLAIN_SOUND_MM = 6.4
PLAIN_MOST_MM = 9.5
PAST_REACH_MM = 1.0
COVER_BORES = {"gas-lens": 1.5, "plain": 1.0}
NAMES = {"gas-lens": "gas lens", "plain": "plain collet body"}
SHOW_CUPS, SOUND_CUP, STEEL_CUP, WIDEST_CUP = (8, 10, 12), 8, 7, 16
OFFERED_CUPS = (6, 8, 10, 12, 16)
LONG_SEAM_MM = 150.0
UNCOVERED_FROM_MM = 0.5
SLACK_MM = 1e-9


@dataclass(frozen=True, kw_only=True)
class Torch(Choice):
    """Front end and its name, cup number and bore mm, stick-out and its sound limit mm, what the cup covers and what it
    does not mm; the torch it is for."""

    part: ClassVar[str] = "torch"
    answer: ClassVar[str] = "torch"
    label: ClassVar[str] = "Torch"
    front_end: str = figure("Front end", pin=ByHand("front_end", allowed=("gas-lens", "plain")))
    front_end_name: str = figure("Torch")
    cup: int = figure("Cup", "count", positive=True, pin=ByHand("cup", allowed=tuple(catalogue.cups())))
    bore_mm: float = figure("Bore", "length", 2, positive=True)
    stickout_mm: float = figure("Stick-out", "size", 2, positive=True, pin=ByHand("stickout_mm", 1, 40))
    stickout_limit_mm: float = figure("Sound stick-out", "size", 2)
    cover_mm: float = figure("Cup covers", "size", 1, positive=True, compared="Cup covers")
    uncovered_mm: float = figure("Uncovered", "size", 1)
    tail_uncovered_mm: float = figure("Tail uncovered", "size", 1)
    torch: str = figure("Torch size")

    def words(self) -> tuple[str, str]:
        return "{front_end_name}, no. {cup}", "{stickout_mm} out, sound to {stickout_limit_mm}"


def choose_torch(joint: Joint, section: Section, shop: Shop, warmth: Warmth) -> Torch:
    """Choose the front end. Common practice; cover in bores: estimate."""
    stickout = joint.pinned("stickout_mm", reach_mm(joint) + PAST_REACH_MM)
    front = joint.pinned("front_end", _front_end(joint, section, stickout))
    own, why = _cup(joint, section, warmth.hot_band_mm, front, stickout)
    cup = joint.pinned("cup", own)
    if "cup" in joint.pins:
        why = practice("No. {cup} set by hand; the plan's own is no. {own}.", cup=cup, own=own)
    bore = bore_mm(cup)
    cover = COVER_BORES[front] * bore
    torch = Torch(
        front_end=front, front_end_name=NAMES[front], cup=cup, bore_mm=bore, stickout_mm=stickout, stickout_limit_mm=limits_mm(front, cup)[0],
        cover_mm=cover, uncovered_mm=max(0.0, warmth.hot_band_mm - cover), tail_uncovered_mm=max(0.0, warmth.tail_mm - cover / 2),
        torch=shop.torch, others=_others(front, cup),
        why=(
            why, _cover_reason(front, cover, warmth.hot_band_mm), _front_reason(section, front),
            _stickout_reason(joint, front, stickout, limits_mm(front, cup)[0]), *_family_reasons(shop),
        ),
    )  # fmt: skip
    return _with_cautions(torch, joint, section)


def reach_mm(joint: Joint) -> float:
    """How far the tungsten must reach, mm: as told, else by joint (estimate)."""
    return joint.kind.reach_mm if joint.reach is None else joint.reach.mm


def limits_mm(front: str, cup: int) -> tuple[float, float]:
    """Sound stick-out and the most before it is refused, mm. Common practice.

    Plain: to the bore and 6.4, refused past 9.5. Lens: to the bore and 16; to 1.5 bores and 19, 25 from no. 14.
    """
    bore = bore_mm(cup)
    if front == "plain":
        return min(bore, PLAIN_SOUND_MM), PLAIN_MOST_MM
    most = BIG_LENS_CAUTION_MM if cup >= BIG_LENS_FROM else LENS_CAUTION_MM
    return min(bore, LENS_MOST_MM), min(CAUTION_IN_BORES * bore, most)


def _front_end(joint: Joint, section: Section, stickout: float) -> str:
    if section.stainless_sides == 0 and stickout <= PLAIN_SOUND_MM and joint.finish == "sound":
        return "plain"
    return "gas-lens"


def _cup(joint: Joint, section: Section, band: float, front: str, stickout: float) -> tuple[int, Reason]:
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
    if limits_mm(front, cup)[0] < stickout:
        cup = next((c for c in catalogue.cups() if c > cup and limits_mm(front, c)[0] >= stickout), WIDEST_CUP)
        why = "No. {c}: the bore that bears a stick-out of {s}."
    return cup, practice(why, c=cup, s=size(stickout))


def _cover_reason(front: str, cover: float, band: float) -> Reason:
    said = estimate("cup-cover", "Covers {c} across; the hot band is {b}.", c=size(cover), b=size(band))
    rule = "cover = 1.5 bores with a lens, 1 bore plain"
    return ruled(said, rule, "{n} × bore = {c}", n=f"{COVER_BORES[front]:g}", c=size(cover))


def _front_reason(section: Section, front: str) -> Reason:
    if front == "plain":
        return practice("A plain collet body is fine for short stick-out and tight budgets.")
    what = "for looks, and for a long stick-out" if section.stainless_sides == 0 else "the default for stainless"
    return practice("A gas lens sends the argon out in a smooth column: {what}.", what=what)


def _stickout_reason(joint: Joint, front: str, stickout: float, sound: float) -> Reason:
    words = "{s} out, to reach the joint and see; this {f} is sound to {l}."
    figures = {"s": size(stickout), "f": NAMES[front], "l": size(sound)}
    if "stickout_mm" in joint.pins:
        return practice(words, **figures)
    said = estimate("reach-by-joint" if joint.reach is None else "stickout-default", words, **figures)
    return ruled(said, "stick-out = reach + 1 mm", "{r} + 1 mm = {s}", r=size(reach_mm(joint)), s=size(stickout))


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


def _with_cautions(torch: Torch, joint: Joint, section: Section) -> Torch:
    found = [*_stickout_cautions(torch)]
    if joint.finish == "show" and section.stainless_sides:
        found += _uncovered(torch)
    if torch.cup >= BIG_LENS_FROM and section.length_mm > LONG_SEAM_MM:
        found.append(note("cup-eats-argon", "torch", "A no. {c} eats argon: not for the whole job.", c=torch.cup))
    return replace(torch, cautions=tuple(found))


def _stickout_cautions(torch: Torch) -> list[Caution]:
    sound, most = limits_mm(torch.front_end, torch.cup)
    figures = {"s": size(torch.stickout_mm), "c": torch.cup, "f": torch.front_end_name}
    if torch.stickout_mm > most + SLACK_MM:
        mend = "Fit a gas lens, or a bigger cup." if torch.front_end == "plain" else "A bigger cup, or get closer."
        words = "{s} out of a no. {c} {f}: past {m} air reaches the tungsten. {mend}"
        return [stop("stickout-too-long", "torch", words, m=size(most), mend=mend, **figures)]
    if torch.stickout_mm > sound + SLACK_MM:
        words = "{s} out is past the sound {l} of a no. {c} {f}: still air only, watch the pool swim. A bigger lens holds better."
        return [caution("stickout-caution", "torch", words, l=size(sound), **figures)]
    return []


def _uncovered(torch: Torch) -> list[Caution]:
    found = []
    if torch.uncovered_mm > UNCOVERED_FROM_MM:
        words = "{u} of the hot band lies outside the cup's cover and will colour. Bars, more speed or a wider lens."
        found.append(caution("cover-short", "torch", words, u=size(torch.uncovered_mm)))
    if torch.tail_uncovered_mm > UNCOVERED_FROM_MM:
        words = "{t} of seam behind the cup is still hot when the gas has passed: bars, speed or a trailing cover keep it silver."
        found.append(note("tail-uncovered", "torch", words, t=size(torch.tail_uncovered_mm)))
    return found
