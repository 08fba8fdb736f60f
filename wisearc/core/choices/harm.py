"""Where the work can hurt: each caution where the plan brings it up, deferring to codes and data sheets."""

from __future__ import annotations

from dataclasses import dataclass

from ..reasons import Caution, Choice, Reason, note, say
from .pulse import Pulse
from .so_far import SoFar

_SHADES = ((40, 9), (100, 10), (175, 11), (250, 12))


@dataclass(frozen=True, kw_only=True)
class Harm(Choice):
    """The welding shade, and the cautions of this joint."""

    shade: int


def choose(so_far: SoFar) -> Harm:
    """Gather what can hurt here. Shade: EN 169; fume: 29 CFR 1910.1026; the rest common practice."""
    peak = so_far.get(Pulse).peak_a
    shade = shade_for(peak)
    found: list[Caution] = [
        note(
            "light",
            "harm",
            "Shade {s} to {a} A; bright stainless throws the arc under the hood: cover neck and forearms, screen bystanders.",
            s=shade,
            a=f"{peak:.0f}",
        ),
        note(
            "hot-metal",
            "harm",
            "Metal, bars and clamps stay hot after the glow. Dry gloves, sound leads, cylinder chained, fire watch; with a pacemaker ask the doctor first.",
        ),
    ]
    if so_far.section.stainless_sides:
        more = ", and manganese from 201" if "201" in {m.key for m in so_far.joint.metals} else ""
        found.append(
            note(
                "fume",
                "harm",
                "Fume carries chromium(VI) and nickel{more}: extract at the source, respirator, head out of the plume (ozone). Limit 5 µg/m³; follow the local rule.",
                more=more,
            )
        )
    if any(m.form == "tube" for m in so_far.joint.members):
        found.append(
            note(
                "sealed-section",
                "harm",
                "Vent any closed tube before heat; never weld a vessel that held fuel.",
            )
        )
    if so_far.joint.position.key == "overhead":
        found.append(note("overhead", "harm", "Overhead: hood, collar, sleeves; metal falls."))
    found.append(
        note(
            "cleaner",
            "harm",
            "No chlorinated cleaner near the arc, not even its vapour: it makes phosgene. Acetone: dry, can closed and away.",
        )
    )
    if so_far.joint.service in ("food", "structural"):
        found.append(
            note(
                "code",
                "harm",
                "{service} work goes by its code and a qualified person; this plan is a shop's start, not a qualified procedure.",
                service=so_far.joint.service.capitalize(),
            )
        )
    return Harm(
        shade=shade,
        why=(Reason(say("Shade {s} for {a} A.", s=shade, a=f"{peak:.0f}"), "en-169", "published"),),
        cautions=tuple(found),
    )


def shade_for(current_a: float) -> int:
    """Welding shade: 9 to 40 A, 10 to 100, 11 to 175, 12 to 250, 13 above. Source: EN 169, from memory.

    >>> shade_for(40), shade_for(110)
    (9, 11)
    """
    return next((shade for most, shade in _SHADES if current_a <= most), 13)
