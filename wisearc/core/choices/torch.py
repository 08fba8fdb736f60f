"""The torch's front end: lens or plain, cup, stick-out with its limits, what stays uncovered."""

from __future__ import annotations

from dataclasses import dataclass

from .. import catalogue
from ..gas import bore_mm
from ..quantities import length, size
from ..reasons import Caution, Choice, Other, Reason, caution, estimate, note, practice, ruled, say, stop
from .so_far import SoFar
from .warmth import Warmth

LENS_MOST_MM = 16.0
LENS_CAUTION_MM = 19.0
BIG_LENS_CAUTION_MM = 25.0
PLAIN_SOUND_MM = 6.4
PLAIN_MOST_MM = 9.5
COVER_BORES = {"gas-lens": 1.5, "plain": 1.0}
NAMES = {"gas-lens": "gas lens", "plain": "plain collet body"}
_SHOW_CUPS = (8, 10, 12)


@dataclass(frozen=True, kw_only=True)
class Torch(Choice):
    """Front end, cup number and bore mm, stick-out and its sound limit mm, what the cup covers mm."""

    front_end: str
    cup: int
    bore_mm: float
    stickout_mm: float
    stickout_limit_mm: float
    cover_mm: float
    uncovered_mm: float
    tail_uncovered_mm: float


def choose(so_far: SoFar) -> Torch:
    """Choose the front end. Common practice; cover in bores: estimate."""
    joint, warmth = so_far.joint, so_far.get(Warmth)
    stickout = joint.pin("stickout_mm") or reach_mm(so_far) + 1.0
    front = joint.pin("front_end") or _front_end(so_far, stickout)
    cup, why = _cup(so_far, front, stickout)
    if joint.pin("cup"):
        own, cup = cup, joint.pin("cup")
        why = practice("No. {cup} set by hand; the plan's own is no. {own}.", cup=cup, own=own)
    bore = bore_mm(cup)
    cover = COVER_BORES[front] * bore
    uncovered = max(0.0, warmth.hot_band_mm - cover)
    tail = max(0.0, warmth.tail_mm - cover / 2)
    sound, most = limits_mm(front, cup)
    return Torch(
        front_end=front, cup=cup, bore_mm=bore, stickout_mm=stickout, stickout_limit_mm=sound, cover_mm=cover,
        uncovered_mm=uncovered, tail_uncovered_mm=tail,
        why=(why, _cover_reason(front, cover, warmth.hot_band_mm), _front_reason(so_far, front), _stickout_reason(so_far, front, stickout, sound), *_family_reasons(so_far)),
        others=tuple(_others(front, cup)),
        cautions=tuple(_cautions(so_far, front, cup, stickout, sound, most, uncovered, tail)),
    )  # fmt: skip


def reach_mm(so_far: SoFar) -> float:
    """How far the tungsten must reach, mm: as told, else by joint (estimate)."""
    if so_far.joint.reach is not None:
        return so_far.joint.reach.mm
    return so_far.joint.kind.reach_mm


def limits_mm(front: str, cup: int) -> tuple[float, float]:
    """Sound stick-out and the most before it is refused, mm. Common practice.

    Plain: to the bore and 6.4, refused past 9.5. Lens: to the bore and 16; to 1.5 bores and 19, 25 from no. 14.
    """
    bore = bore_mm(cup)
    if front == "plain":
        return min(bore, PLAIN_SOUND_MM), PLAIN_MOST_MM
    most = BIG_LENS_CAUTION_MM if cup >= 14 else LENS_CAUTION_MM
    return min(bore, LENS_MOST_MM), min(1.5 * bore, most)


def _front_end(so_far: SoFar, stickout: float) -> str:
    if so_far.section.stainless_sides == 0 and stickout <= PLAIN_SOUND_MM and so_far.joint.finish == "sound":
        return "plain"
    return "gas-lens"


def _cup(so_far: SoFar, front: str, stickout: float) -> tuple[int, Reason]:
    joint, band = so_far.joint, so_far.get(Warmth).hot_band_mm
    if so_far.section.stainless_sides == 0:
        cup, why = 7, "No. 7, all-round for steel."
    elif joint.finish == "show":
        cup = next((c for c in _SHOW_CUPS if COVER_BORES[front] * bore_mm(c) >= band), _SHOW_CUPS[-1])
        why = (
            "No. {c}: the smallest that covers the hot band for show."
            if COVER_BORES[front] * bore_mm(cup) >= band
            else "No. {c}, the widest for a whole seam; no. 14 to 16 eat argon."
        )
    else:
        cup, why = 8, "No. {c}: with a lens the stainless default."
    if joint.kind.key == "edge":
        cup = next((c for c in catalogue.cups() if c > cup), cup)
        why = "No. {c}: on an edge the sheet splits the gas, so one size up."
    if limits_mm(front, cup)[0] < stickout:
        cup = next((c for c in catalogue.cups() if c > cup and limits_mm(front, c)[0] >= stickout), 16)
        why = "No. {c}: the bore that bears a stick-out of {s}."
    return cup, practice(why, c=cup, s=size(stickout))


def _cover_reason(front: str, cover: float, band: float) -> Reason:
    reason = estimate("cup-cover", "Covers {c} across; the hot band is {b}.", c=size(cover), b=size(band))
    worked = say("{n} × bore = {c}", n=f"{COVER_BORES[front]:g}", c=size(cover))
    return Reason(reason.sentence, reason.source, reason.mark, "cover = 1.5 bores with a lens, 1 bore plain", worked)


def _front_reason(so_far: SoFar, front: str) -> Reason:
    if front == "gas-lens" and so_far.section.stainless_sides == 0:
        return practice("A gas lens sends the argon out in a smooth column: for looks, and for a long stick-out.")
    if front == "gas-lens":
        return practice("A gas lens sends the argon out in a smooth column: the default for stainless.")
    return practice("A plain collet body is fine for short stick-out and tight budgets.")


def _stickout_reason(so_far: SoFar, front: str, stickout: float, sound: float) -> Reason:
    words = "{s} out, to reach the joint and see; this {f} is sound to {l}."
    figures = {"s": size(stickout), "f": NAMES[front], "l": size(sound)}
    if so_far.joint.pin("stickout_mm"):
        return practice(words, **figures)
    source = "stickout-default" if so_far.joint.reach is not None else "reach-by-joint"
    return ruled(
        estimate(source, words, **figures),
        "stick-out = reach + 1 mm",
        "{r} + 1 mm = {s}",
        r=size(reach_mm(so_far)),
        s=size(stickout),
    )


def _family_reasons(so_far: SoFar) -> tuple[Reason, ...]:
    torch = so_far.shop.torch_row
    cooling = "water-cooled" if torch.water else "air-cooled"
    return (
        estimate(
            "assumed-shop",
            "Reckoned for a no. {n} torch: {family} family of parts, {cooling}, {r} A.",
            n=torch.key,
            family=torch.family,
            cooling=cooling,
            r=f"{torch.rating_a:.0f}",
        ),
        practice(
            "Parts of the small and the large family do not swap, nor cups between plain body and lens; a stubby lens kit puts small cups on a large torch."
        ),
    )


def _others(front: str, cup: int) -> list[Other]:
    other = "plain" if front == "gas-lens" else "gas-lens"
    cost = (
        "Cheaper, shorter stick-out, a rougher jet: {m} at most."
        if other == "plain"
        else "Smooth gas, longer stick-out; screens that spatter spoils."
    )
    found = [
        Other(
            say("{n}", n=NAMES[other]),
            say(cost, m=length(PLAIN_SOUND_MM)),
            "common-practice",
            "common-practice",
            {"pins.front_end": other},
        )
    ]
    for number, text in catalogue.cups().items():
        if number != cup and number in (6, 8, 10, 12, 16):
            found.append(
                Other(
                    say("no. {c}", c=number),
                    say(text),
                    "common-practice",
                    "common-practice",
                    {"pins.cup": number},
                )
            )
    return found


def _cautions(
    so_far: SoFar,
    front: str,
    cup: int,
    stickout: float,
    sound: float,
    most: float,
    uncovered: float,
    tail: float,
) -> list[Caution]:
    found: list[Caution] = []
    if stickout > most + 1e-9:
        found.append(
            stop(
                "stickout-too-long",
                "torch",
                "{s} out of a no. {c} {f}: past {m} air reaches the tungsten. {mend}",
                s=size(stickout),
                c=cup,
                f=NAMES[front],
                m=size(most),
                mend="Fit a gas lens, or a bigger cup." if front == "plain" else "A bigger cup, or get closer.",
            )
        )
    elif stickout > sound + 1e-9:
        found.append(
            caution(
                "stickout-caution",
                "torch",
                "{s} out is past the sound {l} of a no. {c} {f}: still air only, watch the pool swim. A bigger lens holds better.",
                s=size(stickout),
                l=size(sound),
                c=cup,
                f=NAMES[front],
            )
        )
    if so_far.joint.finish == "show" and so_far.section.stainless_sides:
        if uncovered > 0.5:
            found.append(
                caution(
                    "cover-short",
                    "torch",
                    "{u} of the hot band lies outside the cup's cover and will colour. Bars, more speed or a wider lens.",
                    u=size(uncovered),
                )
            )
        if tail > 0.5:
            found.append(
                note(
                    "tail-uncovered",
                    "torch",
                    "{t} of seam behind the cup is still hot when the gas has passed: bars, speed or a trailing cover keep it silver.",
                    t=size(tail),
                )
            )
    if cup >= 14 and so_far.section.length_mm > 150:
        found.append(note("cup-eats-argon", "torch", "A no. {c} eats argon: not for the whole job.", c=cup))
    return found
