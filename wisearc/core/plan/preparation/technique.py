"""Technique: torch and rod angles, start and stop, and the work after welding.

Common practice.
"""

from typing import Annotated, ClassVar

from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import length, temperature
from ...reasons import Care, Caution, Choice, Practice, Published, Reason, WithFormula
from ...schema.figures import Figure
from ...shop.bench import Bench
from ..arc.need import is_braze
from ..filler_metal.feeding import THROAT_SHARE
from ..filler_metal.filler import Filler
from ..filler_metal.service import LIQUID
from ..torch.front_end import opening_deg

LEAD_DEG = 15.0
SQUARE_DEG, TO_THIN_DEG = 90.0, 65.0
# Thick to thin: the torch leans fully to the thin sheet from a ratio of two.
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

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        if self.torch_angle_deg is None:
            return "", ""
        leg = "; leg {leg_mm}, throat {throat_mm}" if self.leg_mm is not None else ""
        return (
            "{torch_angle_deg} to {torch_to}, push angle {lead_angle_deg}",
            "{polarity}; {aim}" + leg,
        )


def choose_technique(joint: Joint, section: Section, bench: Bench, filler: Filler) -> Technique:
    """Choose the manual technique.

    Common practice.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        filler: The filler metal.
    """
    leg = filler.leg_mm
    start_at, stop_at = _choose_ends(joint, section)
    return Technique(
        polarity="DC, electrode negative",
        start=describe_start(bench),
        return_clamp=RETURN_CLAMP,
        torch_angle_deg=torch_angle_deg(joint, section),
        torch_to=_to(section),
        lead_angle_deg=LEAD_DEG,
        aim=_choose_aim(joint, section, filler),
        rod_side=_choose_rod_side(filler),
        leg_mm=leg,
        throat_mm=None if leg is None else THROAT_SHARE * leg,
        start_at=start_at,
        stop_at=stop_at,
        why=tuple(_explain_technique(joint, section, bench, filler, start_at, stop_at)),
        cautions=tuple(_check_start(bench)),
    )


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
    return "the thin sheet" if section.unlike else "the sheet"


def _calculate_opening(joint: Joint) -> tuple[float, float]:
    """Return the opening angle from one sheet to the other, and its middle, °."""
    entered_deg = opening_deg(joint)
    if entered_deg is None and joint.kind.deposit != "fillet":
        return SQUARE_DEG, SQUARE_DEG
    full_opening_deg = SQUARE_DEG if entered_deg is None else entered_deg
    return full_opening_deg, full_opening_deg / 2


def _choose_aim(joint: Joint, section: Section, filler: Filler) -> str:
    if is_braze(filler.rod):
        return "on the rod and its pool, washed over both sheets"
    if section.unlike:
        return "two thirds of the arc on the thick side"
    if section.carbon_sides == 1:
        return "on the seam, leaning to the stainless"
    return (
        "into the root, equally on both sides"
        if joint.kind.has("inner")
        else "on the line of the seam"
    )


def _choose_rod_side(filler: Filler) -> str:
    return (
        "none"
        if filler.rod is None
        else "ahead of the pool, 15–20° to the sheet, with its tip in the gas"
    )


def _choose_ends(joint: Joint, section: Section) -> tuple[str, str]:
    """Return the start and the end of the weld."""
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
            "Thick to thin: aim two thirds of the arc at the thick side, with the torch "
            "at 60–70° to the thin sheet. Start and stop on the thick side."
        )
        reasons.append(Practice(text))
    if filler.leg_mm is not None:
        text = "Leg {leg}, throat {throat} (0.7 of the leg)."
        reasons.append(
            Practice(text, leg=length(filler.leg_mm), throat=length(THROAT_SHARE * filler.leg_mm))
        )
    if joint.kind.has("cope"):
        text = (
            "At the heel the torch follows the branch, and at the toe it has room. Weld "
            "the heel in a short length, last of each half."
        )
        reasons.append(Practice(text))
    return reasons


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
            Practice("Wire-brush the scale off. Paint or oil the steel before it rusts."),
        )
    reasons: list[Reason] = [
        Practice(
            "Use a brush kept for stainless. Use no carbon-steel wire and no chloride "
            "marker. Use new wheels."
        ),
    ]
    if joint.service in LIQUID:
        text = (
            "Remove every tint beyond pale straw on both faces: pickle or electro-clean "
            "and rinse. Then apply citric acid of 4–10 % at {a}–{b} for 20–30 min, and "
            "rinse."
        )
        reasons.append(Practice(text, a=temperature(21), b=temperature(49)))
    elif joint.finish == "show":
        reasons.append(
            Practice(
                "Wipe while warm. A citric or electrolytic cleaner removes straw, and pickle "
                "removes blue."
            )
        )
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
    if section.carbon_sides:
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
