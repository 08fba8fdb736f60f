"""The front end of the torch.

Gas lens or collet body, cup, stick-out with its limits, and uncovered width.
"""

from functools import lru_cache
from typing import Annotated, Any, ClassVar

from msgspec.structs import replace

from ... import catalogue
from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import amps_without_unit, length, size
from ...reasons import (
    Alternative,
    Care,
    Caution,
    Choice,
    Estimate,
    Note,
    Practice,
    Reason,
    Sentence,
    Stop,
    WithFix,
    WithFormula,
)
from ...schema.figures import Figure, Override
from ..arc.current import Current
from ..arc.heat import HeatResult
from .fit import Fit
from .front_end import (
    BIG_LENS_FROM,
    COVER_BORES,
    DRAUGHT_FROM_MM,
    LONG_REACH,
    LONG_SEAM_MM,
    MAX_USED_MM,
    NAMES,
    OFFERED_CUPS,
    PAST_REACH_MM,
    PLAIN_STICKOUT_MM,
    SLACK_MM,
    STANDARD_CUP,
    UNCOVERED_FROM_MM,
    bore_mm,
    cover_mm,
    find_limits,
    opening_deg,
    outside_mm,
    rank_stickout,
    stickout_mm,
    toe_stickout_mm,
)
from .sectors import Sector, list_sectors

# The state of a stick-out beyond its maximum.
MAX_RANK = 3
BY_BORE = "bore"
REACH_NAMES = {BY_BORE: "cup by its bore", LONG_REACH: "long reach"}


class Torch(Choice, frozen=True, kw_only=True):
    """The front end.

    Name, cup number, bore mm, stick-out and its limit mm (of a cope at the heel, and at the toe),
    shielded and unshielded width mm, and the torch.
    """

    part: ClassVar[str] = "torch"
    answer: ClassVar[str] = "torch"
    label: ClassVar[str] = "Torch"
    front_end: Annotated[
        str, Figure("Front end", pin=Override("front_end", allowed=("gas-lens", "plain")))
    ]
    front_end_name: Annotated[str, Figure("Torch")]
    cup: Annotated[
        int,
        Figure(
            "Cup", "count", positive=True, pin=Override("cup", allowed=tuple(catalogue.load_cups()))
        ),
    ]
    bore_mm: Annotated[float, Figure("Bore", "length", 2, positive=True)]
    stickout_mm: Annotated[
        float, Figure("Stick-out", "size", 2, positive=True, pin=Override("stickout_mm", 1, 40))
    ]
    stickout_limit_mm: Annotated[float, Figure("Sound stick-out", "size", 2)]
    toe_stickout_mm: Annotated[float | None, Figure("Stick-out at the toe", "size", 2)]
    cover_mm: Annotated[
        float, Figure("Shielding width", "size", 1, positive=True, compared="Shielding width")
    ]
    uncovered_mm: Annotated[float, Figure("Unshielded width", "size", 1)]
    tail_uncovered_mm: Annotated[float, Figure("Unshielded tail", "size", 1)]
    torch: Annotated[str, Figure("Torch size")]
    sectors: Annotated[tuple[Sector, ...], Figure("Sectors", holds=Sector)] = ()

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        toe = (
            " at the heel, {toe_stickout_mm} at the toe" if self.toe_stickout_mm is not None else ""
        )
        return (
            "{front_end_name}, no. {cup}",
            f"stick-out {{stickout_mm}}{toe}, sound to {{stickout_limit_mm}}",
        )


def choose_torch(
    joint: Joint, section: Section, current: Current, heat: HeatResult, fit: Fit
) -> Torch:
    """Return the fitted front end with its shielding.

    Common practice. Shielding width in bores and geometric reach are estimates.

    Args:
        joint: The joint.
        section: Its section.
        current: The unpulsed current.
        heat: The heat.
        fit: The torch parts.
    """
    front, cup = fit.kit.front_end, fit.cup
    stickout, bore = stickout_mm(joint, cup), bore_mm(cup)
    cover, sectors = cover_mm(front, cup), list_sectors(joint, section, cup, current.steady_a)
    torch = Torch(
        front_end=front,
        front_end_name=fit.kit.name,
        cup=cup,
        bore_mm=bore,
        stickout_mm=stickout,
        stickout_limit_mm=find_limits(front, cup).limit_mm,
        toe_stickout_mm=toe_stickout_mm(joint, cup),
        cover_mm=cover,
        uncovered_mm=max(0.0, heat.hot_band_mm - cover),
        tail_uncovered_mm=max(0.0, min(heat.tail_mm, section.length_mm) - cover / 2),
        torch=fit.torch.size,
        sectors=sectors,
        others=(*_list_alternatives(joint, fit), *_list_reach_alternatives(joint, front, cup)),
        swaps=fit.instead_of_torch,
        why=(
            *fit.why,
            _explain_shielding(front, cover, heat.hot_band_mm),
            _explain_front_end(section, front),
            _explain_stickout(joint, fit.kit.name, front, cup, stickout),
            *_explain_sectors(sectors),
            *_explain_family(fit.torch.size, bool(fit.torch.name)),
        ),
    )
    torch = _with_cautions(torch, joint, section, heat)
    return replace(torch, cautions=(*torch.cautions, *_check_cup_size(joint, fit)))


def _explain_shielding(front: str, cover: float, band: float) -> Reason:
    reason = Estimate(
        "cup-cover", "The cup shields {c}, and the hot width is {b}.", c=size(cover), b=size(band)
    )
    rule = "shielding width = 1.5 bores with a gas lens, 1 bore with a collet body"
    return WithFormula(reason, rule, "{n} × bore = {c}", n=f"{COVER_BORES[front]:g}", c=size(cover))


def _explain_front_end(section: Section, front: str) -> Reason:
    if front == "plain":
        return Practice("A collet body is enough for a short stick-out and a small budget.")
    use = (
        "for show work and a long stick-out"
        if section.stainless_sides == 0
        else "the default for stainless"
    )
    return Practice("A gas lens makes the argon flow smooth: {what}.", what=use)


def _explain_stickout(joint: Joint, name: str, front: str, cup: int, stickout: float) -> Reason:
    figures = {
        "s": size(stickout),
        "f": name,
        "l": size(find_limits(front, cup).limit_mm),
        "c": cup,
    }
    if "stickout_mm" in joint.pins:
        return Practice("Stick-out {s}, set manually. Up to {l} is sound with this {f}.", **figures)
    opens = opening_deg(joint) if joint.reach is None else None
    if opens is None:
        text = (
            "Stick-out {s}, to reach the joint and see the pool. Up to {l} is sound with this {f}."
        )
        reason = Estimate(
            "reach-by-joint" if joint.reach is None else "stickout-default", text, **figures
        )
        return WithFormula(
            reason,
            "stick-out = reach + 1 mm",
            "{r} + 1 mm = {s}",
            r=size(stickout - PAST_REACH_MM),
            s=size(stickout),
        )
    where = "at the heel, at most" if joint.kind.has("cope") else "there"
    text = (
        "Stick-out {s}: a no. {c} cup rests on both sides of an opening of {a}° "
        "{where}. Up to {l} is sound with this {f}."
    )
    reason = Estimate("cut-reach", text, a=f"{opens:g}", where=where, **figures)
    rule = "stick-out = 1.07 · r / tan(θ/2) − arc length, at least 5 mm"
    return WithFormula(
        reason,
        rule,
        "r {r}, θ {a}°: {s}",
        r=length(outside_mm(cup) / 2),
        a=f"{opens:g}",
        s=size(stickout),
    )


def _list_reach_alternatives(joint: Joint, front: str, cup: int) -> tuple[Alternative, ...]:
    """Return the other approach to a long stick-out, where the cup depends on it."""
    if front != "gas-lens" or "cup" in joint.pins:
        return ()
    other = BY_BORE if joint.reach_school == LONG_REACH else LONG_REACH
    theirs = replace(joint, reach_school=other)
    if not rank_stickout(theirs, front, STANDARD_CUP):
        return ()
    text = (
        "A cup as wide as the reach: more argon, and less trouble with draughts."
        if other == BY_BORE
        else "Long reach from a small lens: less argon and a better view, but only in still air."
    )
    return (
        Alternative(
            Sentence("{name}", name=REACH_NAMES[other]),
            Sentence(text),
            {"reach_school": other},
            "reach_school",
        ),
    )


def _explain_sectors(sectors: tuple[Sector, ...]) -> list[Reason]:
    """Return a reason for each sector: torch angle, stick-out and current."""
    text = "{place}: torch at {a}° to the tube, stick-out {s}, about {i} A without pulse."
    return [
        Estimate(
            "sector-current",
            text,
            place=sector.place.capitalize(),
            a=f"{sector.torch_angle_deg:.0f}",
            s=size(sector.stickout_mm),
            i=amps_without_unit(sector.current_a),
        )
        for sector in sectors
    ]


def _mark_estimate(text: str, **figures: Any) -> Reason:
    return Estimate("assumed-shop", text, **figures)


@lru_cache(maxsize=16)
def _explain_family(torch_size: str, is_shop_choice: bool) -> tuple[Reason, ...]:
    torch = catalogue.load_torches()[torch_size]
    text = "For a no. {n} torch: {family} family of parts, {cooling}, {r} A."
    swap = (
        "Parts of the small and the large family do not interchange. Cups for a "
        "collet body do not fit a gas lens. A stubby lens kit fits small cups to a "
        "large torch."
    )
    figures = {"family": torch.family, "cooling": "water-cooled" if torch.water else "air-cooled"}
    figures |= {"n": torch.key, "r": f"{torch.rating_a:.0f}"}
    return (Practice if is_shop_choice else _mark_estimate)(text, **figures), Practice(swap)


def _list_alternatives(joint: Joint, fit: Fit) -> tuple[Alternative, ...]:
    """Return the other front end, and other cups that are made for it and reach the joint."""
    front, cup = fit.kit.front_end, fit.cup
    other, wording = (
        ("plain", "Lower price, shorter stick-out, rougher flow: at most {m}.")
        if front == "gas-lens"
        else ("gas-lens", "Smooth flow, longer stick-out. Spatter spoils the screens.")
    )
    alternatives = [
        Alternative(
            Sentence("{n}", n=NAMES[other]),
            Sentence(wording, m=length(PLAIN_STICKOUT_MM)),
            {"pins.front_end": other},
        )
    ]
    for number, text in catalogue.load_cups().items():
        reaches = rank_stickout(joint, front, number) < MAX_RANK
        if number != cup and number in OFFERED_CUPS and number <= fit.kit.max_cup and reaches:
            alternatives.append(
                Alternative(Sentence("no. {c}", c=number), Sentence(text), {"pins.cup": number})
            )
    return tuple(alternatives)


def _with_cautions(torch: Torch, joint: Joint, section: Section, heat: HeatResult) -> Torch:
    cautions = [*_check_stickout(torch, joint)]
    if joint.finish == "show" and section.stainless_sides:
        cautions += _check_shielding(torch, joint, heat)
    if torch.cup >= BIG_LENS_FROM and section.length_mm > LONG_SEAM_MM:
        cautions.append(
            Note(
                "cup-eats-argon",
                "torch",
                "A no. {c} cup uses much argon. Do not use it for the whole job.",
                c=torch.cup,
            )
        )
    return replace(torch, cautions=tuple(cautions))


def _check_stickout(torch: Torch, joint: Joint) -> list[Caution]:
    limits = find_limits(torch.front_end, torch.cup)
    rank = limits.rank(torch.stickout_mm)
    figures = {
        "s": size(torch.stickout_mm),
        "c": torch.cup,
        "f": torch.front_end_name,
        "m": size(limits.maximum_mm),
        "l": size(limits.limit_mm),
        "d": length(DRAUGHT_FROM_MM),
        "where": " at the heel" if torch.toe_stickout_mm is not None else "",
    }
    if rank == 0:
        return _note_draught(torch, figures)
    keys = {f"pins.{key}": None for key in ("stickout_mm", "cup", "front_end") if key in joint.pins}
    measured = max(1.0, float(f"{limits.limit_mm - PAST_REACH_MM - 0.05:.1f}"))
    release, how = (
        (keys, "Use the recommended torch")
        if keys
        else ({"reach": f"{measured:g} mm"}, "Measured: shorter, and suitable")
    )
    if rank == MAX_RANK:
        text = (
            "Do not weld: the stick-out{where} is {s}, but a no. {c} {f} allows {m}. Air will "
            "reach the weld pool. {fix}"
        )
        fix = _fix_stickout(torch)
        return [
            WithFix(Stop("stickout-too-long", "torch", text, fix=fix, **figures), how, **release)
        ]
    if joint.reach_school == LONG_REACH and torch.front_end == "gas-lens" and rank == 1:
        text = (
            "The stick-out of {s} from a no. {c} {f} shields well in still air. A draught "
            "spoils it. Shut doors and fans off first."
        )
        return [Note("stickout-draught", "torch", text, **figures)]
    text = "The stick-out{where} of {s} is long for a no. {c} {f}. Air reaches the weld pool. "
    if rank > 1 or torch.stickout_mm > MAX_USED_MM:
        text += "Measure the real reach, run a test bead on scrap, and keep the air still."
    elif torch.front_end == "plain":
        text += "Use a gas lens."
    else:
        text += "Use a larger lens, or shield the joint from draughts."
    return [WithFix(Care("stickout-caution", "torch", text, **figures), how, **release)]


def _check_cup_size(joint: Joint, fit: Fit) -> list[Caution]:
    """Return the caution for a manual cup that is not made for the front end of the torch."""
    if fit.cup <= fit.kit.max_cup:
        return []
    text = (
        "No. {c} is not made for the {f} of a no. {n} torch. It will not screw on. Use no. {m} at "
        "most, or a larger torch."
    )
    figures = {"c": fit.cup, "f": fit.kit.name, "n": fit.torch.size, "m": fit.kit.max_cup}
    item = Care("cup-not-made", "torch", text, **figures)
    return [WithFix(item, "Use the recommended cup", **{"pins.cup": None})]


def _note_draught(torch: Torch, figures: dict[str, Any]) -> list[Caution]:
    if torch.stickout_mm <= DRAUGHT_FROM_MM + SLACK_MM:
        return []
    text = "From {d} of stick-out any draught matters, whatever the cup. Weld in still air."
    return [Note("stickout-draught", "torch", text, **figures)]


def _fix_stickout(torch: Torch) -> str:
    """Return the way out of a stick-out that no limit allows."""
    if torch.front_end == "plain":
        return "Use a gas lens."
    if torch.cup < max(catalogue.load_cups()):
        return "Use a larger lens."
    return "Measure the real reach and enter it, or open the angle."


def _check_shielding(torch: Torch, joint: Joint, heat: HeatResult) -> list[Caution]:
    cautions: list[Caution] = []
    if torch.uncovered_mm > UNCOVERED_FROM_MM:
        text = (
            "{u} of the hot width is outside the gas shield. It will tint. Use a wider "
            "lens, or clean it afterwards."
        )
        item = Care("cover-short", "torch", text, u=size(torch.uncovered_mm))
        wider = next(
            (c for c in catalogue.load_cups() if cover_mm("gas-lens", c) >= heat.hot_band_mm),
            None,
        )
        if wider is not None and "cup" in joint.pins:
            cautions.append(
                WithFix(
                    item, f"Use a no. {wider} lens", **{"pins.cup": wider, "pins.front_end": None}
                )
            )
        elif "cup" in joint.pins or "front_end" in joint.pins:
            cautions.append(
                WithFix(
                    item, "Use the recommended torch", **{"pins.cup": None, "pins.front_end": None}
                )
            )
        else:
            cautions.append(Note("cover-short", "torch", text, u=size(torch.uncovered_mm)))
    if torch.tail_uncovered_mm > torch.cover_mm / 2:
        text = (
            "{t} of seam behind the cup is still hot without gas. It turns straw. Use a "
            "trailing shield to keep it silver."
        )
        cautions.append(Note("tail-uncovered", "torch", text, t=size(torch.tail_uncovered_mm)))
    return cautions
