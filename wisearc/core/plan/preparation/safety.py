"""Safety cautions for hazards of the plan.

They refer to codes and data sheets.
"""

from __future__ import annotations

from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import amps_without_unit
from ...reasons import Caution, Note
from ..arc.pulse import Pulse

_SHADES = ((40, 9), (100, 10), (175, 11), (250, 12))


def list_safety_cautions(joint: Joint, section: Section, pulse: Pulse) -> tuple[Caution, ...]:
    """Return the hazards of the joint.

    Args:
        joint: The joint.
        section: Its section.
        pulse: The pulse.

    References:
        Shade: EN 169. Fume: 29 CFR 1910.1026. Others: common practice.
    """
    bright = "Bright stainless reflects the arc under the hood. " if section.stainless_sides else ""
    light = "Shade {s} (up to {a} A). " + bright + "Cover neck and forearms, and screen bystanders."
    hot = (
        "Metal, bars and clamps stay hot after the glow. They burn skin and start "
        "fires. Wear dry gloves, check the leads, chain the cylinder and keep a fire "
        "watch. With a pacemaker, ask your doctor first."
    )
    cleaner = (
        "Chlorinated cleaner near the arc makes phosgene, even from its vapour. "
        "Phosgene is deadly. Use acetone, let it dry, and keep the can closed and "
        "away."
    )
    cautions = [
        Note(
            "light", "harm", light, s=choose_shade(pulse.peak_a), a=amps_without_unit(pulse.peak_a)
        ),
        Note("hot-metal", "harm", hot),
    ]
    if section.stainless_sides:
        manganese = next((m.key for m in joint.metals if m.has("manganese_fume")), None)
        more = f", and manganese from {manganese}" if manganese else ""
        text = (
            "The fume contains chromium(VI) and nickel{more}. It causes cancer. Extract "
            "at the source, wear a respirator and keep your head out of the plume "
            "(ozone). Limit 5 µg/m³; follow the local rule."
        )
        cautions.append(Note("fume", "harm", text, more=more))
    if any(m.form == "tube" for m in joint.members):
        text = (
            "Heat bursts a closed tube, and fuel residue explodes. Vent every closed "
            "tube before heating it. Never weld a vessel that contained fuel."
        )
        cautions.append(Note("sealed-section", "harm", text))
    if joint.position.has("overhead"):
        cautions.append(
            Note(
                "overhead",
                "harm",
                "Overhead work: molten metal falls. Wear hood, collar and sleeves.",
            )
        )
    cautions.append(Note("cleaner", "harm", cleaner))
    if joint.service in ("food", "structural"):
        text = (
            "{service} work needs its code and a qualified person. This plan is a shop "
            "aid, not a qualified procedure."
        )
        cautions.append(Note("code", "harm", text, service=joint.service.capitalize()))
    return tuple(cautions)


def choose_shade(current_a: float) -> int:
    """Return the welding shade: 9 to 40 A, 10 to 100, 11 to 175, 12 to 250, 13 above.

    References:
        EN 169, from memory.

    >>> choose_shade(40), choose_shade(110)
    (9, 11)
    """
    return next((shade for maximum, shade in _SHADES if current_a <= maximum), 13)
