"""Technique: torch and rod angles, start and stop, and the work after welding.

Common practice.
"""

from collections.abc import Iterable
from typing import Annotated, ClassVar

from ...catalogue.rows import Metal
from ...joint.joint import CORNER_FITS, Joint
from ...joint.section import Section
from ...quantities import length, temperature
from ...reasons import (
    Care,
    Caution,
    Choice,
    Estimate,
    Practice,
    Published,
    Reason,
    WithFix,
    WithFormula,
)
from ...schema.figures import Figure
from ...shop.bench import Bench
from ..arc.aim import describe_aim
from ..arc.need import is_braze
from ..filler_metal.feeding import THROAT_SHARE, corner_throat_mm
from ..filler_metal.filler import Filler
from ..filler_metal.service import LIQUID
from ..torch.front_end import opening_deg
from .stops import MAX_REACH_MM, MIN_REACH_MM, PausePoint, describe_stops, list_stops
from .tacks import Tacks

LEAD_DEG = 15.0
# The fit of a corner with the largest throat.
OPEN_CORNER = "edge-to-edge"
# Bare steel after welding. Food contact takes no paint and no oil.
PROTECT = " Paint or oil the steel before it rusts."
SQUARE_DEG, TO_THIN_DEG = 90.0, 65.0
# Thick to thin: the torch leans fully to the thin side from a ratio of two.
LEANS_BY = 1.0
CLEAN_STARTS = {"hf": "HF", "lift": "lift"}
RETURN_CLAMP = "on clean metal of the work, near the seam, never through a bearing"


class Technique(Choice, frozen=True, kw_only=True):
    """The technique.

    Polarity, arc start, work clamp, work angle and push angle °, aim, rod side, leg and throat of a
    fillet mm, start and stop.
    """

    part: ClassVar[str] = "technique"
    answer: ClassVar[str] = "technique"
    label: ClassVar[str] = "Technique"
    polarity: Annotated[str, Figure("Polarity", part=".")]
    start: Annotated[str, Figure("Start", part=".")]
    return_clamp: Annotated[str, Figure("Work clamp")]
    torch_angle_deg: Annotated[float | None, Figure("Work angle", "degrees", 0)]
    torch_to: Annotated[str, Figure("Angle measured to")]
    lead_angle_deg: Annotated[float | None, Figure("Push angle", "degrees", 0)]
    aim: Annotated[str, Figure("Aim")]
    rod_side: Annotated[str, Figure("Rod")]
    leg_mm: Annotated[float | None, Figure("Leg", "length", 2)]
    throat_mm: Annotated[float | None, Figure("Throat", "length", 2)]
    start_at: Annotated[str, Figure("Start point")]
    stop_at: Annotated[str, Figure("Stop point")]
    stops: Annotated[tuple[PausePoint, ...], Figure("Pauses", holds=PausePoint)] = ()

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        if self.torch_angle_deg is None:
            return "", ""
        throat = "throat {throat_mm}" if self.throat_mm is not None else ""
        leg = f"; leg {{leg_mm}}, {throat}" if self.leg_mm is not None else f"; {throat}"
        leg = leg if throat else ""
        return (
            "{torch_angle_deg} to {torch_to}, push angle {lead_angle_deg}",
            "{polarity}; {aim}" + leg,
        )


def choose_technique(
    joint: Joint, section: Section, bench: Bench, filler: Filler, tacks: Tacks
) -> Technique:
    """Choose the manual technique.

    Common practice.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        filler: The filler metal.
        tacks: The tacks.
    """
    stops = list_stops(joint, section, tacks)
    leg = filler.leg_mm
    throat = (
        corner_throat_mm(joint, section, filler.rod is None) if leg is None else THROAT_SHARE * leg
    )
    start_at, stop_at = _choose_ends(joint, section)
    return Technique(
        polarity="DC, electrode negative",
        start=describe_start(bench),
        return_clamp=RETURN_CLAMP,
        torch_angle_deg=torch_angle_deg(joint, section),
        torch_to=_to(section),
        lead_angle_deg=LEAD_DEG,
        aim=describe_aim(joint, section, filler.rod),
        rod_side=_choose_rod_side(filler),
        leg_mm=leg,
        throat_mm=throat,
        start_at=start_at,
        stop_at=stop_at,
        stops=stops,
        why=(
            *_explain_technique(joint, section, bench, filler, start_at, stop_at),
            *_explain_corner(joint, throat),
            *_explain_stops(joint, stops),
        ),
        cautions=(*_check_start(bench), *_check_corner(joint, throat)),
    )


def _explain_stops(joint: Joint, stops: tuple[PausePoint, ...]) -> list[Reason]:
    """Return the places to pause, in words."""
    if not stops:
        return []
    text = (
        "Weld two halves upward, each from just past the bottom. Pause {at}, and prop again."
        if joint.position.has("fixed_tube")
        else "Pause {at} and prop the hand again: the wrist reaches {low} to {high}. Hide "
        "the stops where you can, on a tack or on the side that nobody sees."
    )
    figures = {"low": length(MIN_REACH_MM), "high": length(MAX_REACH_MM)}
    return [Practice(text, at=describe_stops(stops), **figures)]


def _explain_corner(joint: Joint, throat: float | None) -> list[Reason]:
    """Return the fit of an outside corner with its throat in mm."""
    if not joint.kind.has("fitted") or throat is None:
        return []
    name, text = CORNER_FITS[joint.corner_fit]
    figures = {"fit": name.capitalize(), "text": text, "t": length(throat)}
    return [Estimate("corner-throat", "{fit}: {text} The throat is about {t}.", **figures)]


def _check_corner(joint: Joint, throat: float | None) -> list[Caution]:
    """Return the caution for a loaded corner whose covered edge does not fuse through."""
    if joint.service != "structural" or not joint.kind.has("fitted") or throat is None:
        return []
    if joint.corner_fit == OPEN_CORNER:
        return []
    text = (
        "The throat of this corner is about {t}, because one sheet covers the other edge. The "
        "joint is weaker than the sheet. Fit it edge to edge and use filler."
    )
    item = Care("corner-throat", "technique", text, t=length(throat))
    return [WithFix(item, "Fit it edge to edge", corner_fit=OPEN_CORNER)]


def describe_start(bench: Bench) -> str:
    """Return the arc start of the machine.

    Scratch starts are never used.
    """
    ways = [text for key, text in CLEAN_STARTS.items() if key in bench.machine.starts] or list(
        CLEAN_STARTS.values()
    )
    return " or ".join(ways) + ", never by scratching"


def _check_start(bench: Bench) -> list[Caution]:
    if any(key in bench.machine.starts for key in CLEAN_STARTS):
        return []
    text = (
        "{m} starts only by scratching. Tungsten breaks off into the weld and the "
        "tip is damaged. Start on a copper strip next to the seam and carry over, or "
        "use another machine."
    )
    return [Care("scratch-start", "technique", text, m=bench.machine.name or "The machine")]


def torch_angle_deg(joint: Joint, section: Section) -> float:
    """Return the work angle to the thinner sheet across the seam, °.

    It is 90 for equal thickness in the open, half the opening in a corner or lap, and 65/90 of that
    from a thickness ratio of two.

    Args:
        joint: The joint.
        section: Its section.

    References:
        Common practice.
    """
    opening_deg, square = _calculate_opening(joint)
    lean = min(1.0, (section.ratio - 1) / LEANS_BY)
    return square + lean * (opening_deg * TO_THIN_DEG / SQUARE_DEG - square)


def _to(section: Section) -> str:
    if section.unlike:
        return "the thin side"
    return "the tube" if all(side.form == "tube" for side in section.sides[:2]) else "the sheet"


def _calculate_opening(joint: Joint) -> tuple[float, float]:
    """Return the opening angle from one sheet to the other, and its middle, °."""
    entered_deg = opening_deg(joint)
    if entered_deg is None and joint.kind.deposit != "fillet":
        return SQUARE_DEG, SQUARE_DEG
    full_opening_deg = SQUARE_DEG if entered_deg is None else entered_deg
    return full_opening_deg, full_opening_deg / 2


def _choose_rod_side(filler: Filler) -> str:
    return (
        "none"
        if filler.rod is None
        else "ahead of the pool, 15–20° to the sheet, with its tip in the gas"
    )


def _choose_ends(joint: Joint, section: Section) -> tuple[str, str]:
    """Return the start and the end of the weld."""
    if joint.kind.has("stud"):
        return "on the end of the rod", "as soon as the metal is flush"
    if joint.position.has("fixed_tube"):
        return "just past bottom centre, each half upward", "over the top, onto the other half"
    where = "on the thick side" if section.unlike else "on a hidden side"
    if joint.all_round:
        return f"{where}, between two tacks", "over the start, on the hidden side"
    return (
        f"{where}, slightly in from the end, then back to the end",
        "back on the bead, with a taper",
    )


def _explain_technique(
    joint: Joint, section: Section, bench: Bench, filler: Filler, start_at: str, stop_at: str
) -> list[Reason]:
    opening_deg, square = _calculate_opening(joint)
    a = torch_angle_deg(joint, section)
    text = "Both edges then receive the same heat. Keep the arc length below the tungsten diameter."
    reasons = [
        WithFormula(
            Practice(text),
            (
                "90° in an open joint, half the opening in a corner or lap; 65/90 of the "
                "opening where one side is twice the other"
            ),
            "{s}° of {w}°, thickness {r} to 1: {a}°",
            s=f"{square:g}",
            w=f"{opening_deg:g}",
            r=f"{section.ratio:.3g}",
            a=f"{a:.0f}",
        ),
        Practice(
            "DC, electrode negative. Start by {s}. Work clamp {clamp}.",
            s=describe_start(bench),
            clamp=RETURN_CLAMP,
        ),
        Practice(
            (
                "Start {a}. End {b}, with {low} to {high} of overlap. Restart in the middle "
                "of the crater, and move on when the pool has its old size."
            ),
            a=start_at,
            b=stop_at,
            low=length(5),
            high=length(10),
        ),
    ]
    if is_braze(filler.rod):
        text = (
            "Brazing: heat the sheets until the rod wets them, and never melt them. Use "
            "bright metal and a close gap. Do not go over it twice."
        )
        reasons.append(Practice(text))
    if section.unlike:
        text = (
            "Thick to thin: the thick side needs two thirds of the heat. Hold the torch at "
            "60–70° to the thin side. Start and stop on the thick side."
        )
        reasons.append(Practice(text))
    if filler.leg_mm is not None:
        text = "Leg {leg}, throat {throat} (0.7 of the leg)."
        reasons.append(
            Practice(text, leg=length(filler.leg_mm), throat=length(THROAT_SHARE * filler.leg_mm))
        )
    if joint.kind.has("stud"):
        text = (
            "Let the rod project {low} to {high}. Melt its end and wash it over the edge of the "
            "hole. Blend only at the weld, and stop as soon as the metal is flush."
        )
        reasons.append(Practice(text, low=length(0.5), high=length(1.0)))
    if joint.kind.has("cope"):
        text = (
            "At the heel the torch follows the branch, and at the toe it has room. Weld "
            "the heel in a short length, last of each half."
        )
        reasons.append(Practice(text))
    return reasons


def can_pickle(joint: Joint) -> bool:
    """Return whether pickling paste attacks no member."""
    return can_pickle_metals(member.metal for member in joint.members)


def can_pickle_metals(metals: Iterable[Metal]) -> bool:
    """Return whether pickling paste attacks none of some metals.

    It attacks ferritic stainless and carbon steel: published, from memory.

    Args:
        metals: The metals.
    """
    return not any(not metal.stainless or metal.has("ferritic") for metal in metals)


def describe_tint_removal(metals: Iterable[Metal]) -> str:
    """Return how to remove tint from some metals."""
    return f"{'pickle' if can_pickle_metals(metals) else 'brush'} or electro-clean"


def describe_rust_removal(metals: Iterable[Metal]) -> str:
    """Return how to clean some metals after rust spots are ground out."""
    return "pickle" if can_pickle_metals(metals) else "brush bright, without pickling paste"


def list_after_weld(joint: Joint, section: Section) -> tuple[Reason, ...]:
    """Return the steps after welding, by service, in order.

    Args:
        joint: The joint.
        section: Its section.
    """
    still = (
        [Practice("Cool in still air. Use no draught and no water.")]
        if joint.any_metal("hardens")
        else []
    )
    if section.stainless_sides == 0:
        return (
            *still,
            Practice("Wire-brush the scale off." + ("" if joint.service == "food" else PROTECT)),
        )
    reasons: list[Reason] = [
        Practice(
            "Use a brush kept for stainless. Use no carbon-steel wire and no chloride "
            "marker. Use new wheels."
        ),
    ]
    if joint.service in LIQUID:
        text = (
            "Remove every tint beyond pale straw on both faces: {how} and rinse. Then apply "
            "citric acid of 4–10 % at {a}–{b} for 20–30 min, and rinse."
        )
        how = describe_tint_removal(member.metal for member in joint.members)
        reasons.append(Practice(text, how=how, a=temperature(21), b=temperature(49)))
    elif joint.finish == "show":
        text = "Wipe while warm. A citric or electrolytic cleaner removes straw, and {blue}."
        blue = "pickle removes blue" if can_pickle(joint) else "a fine abrasive removes blue"
        reasons.append(Practice(text, blue=blue))
    if not can_pickle(joint):
        text = "Use no pickling paste: it attacks {metal}."
        metal = "carbon steel" if section.carbon_sides else "ferritic stainless"
        reasons.append(Practice(text, metal=metal))
    if joint.service == "food":
        reasons.append(
            Practice(
                "Leave no crevice, pore or undercut where food can stay. Follow the code of "
                "the plant."
            )
        )
    if joint.service == "hot":
        reasons.append(
            Published(
                "heat-tint-tables", "In hot service it will tint again. Remove only grey scale."
            )
        )
    if section.carbon_sides and joint.service != "food":
        text = (
            "The bare steel side rusts. Paint over the weld and {a} onto the stainless, "
            "{b} outdoors."
        )
        reasons.append(Practice(text, a=length(20), b=length(75)))
    if joint.any_metal("martensitic"):
        text = (
            "Age at {a} to {b} afterwards, if the part was welded solution-treated and "
            "needs its strength."
        )
        reasons.append(Practice(text, a=temperature(480), b=temperature(620)))
    return (*still, *reasons)
