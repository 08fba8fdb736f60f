"""What a rod, or none, must not be put to, whatever its weld metal comes to."""

from __future__ import annotations

from ... import catalogue
from ...catalogue.rows import Rod
from ...joint.joint import Joint
from ...joint.section import Section
from ...reasons import Care, Caution, Stop, WithFix
from .service import SERVICE_WORDS

NOT_FOR_BRAZE = ("structural", "food", "hot")


def rod_cautions(joint: Joint, section: Section, rod: Rod | None) -> list[Caution]:
    """The cautions of a rod (None: bare-fit) at a joint. Common practice."""
    found = _sulphur(joint)
    if rod is None:
        return found + _bare_rules(joint)
    own = {"filler": "auto"}
    if section.stainless_sides and rod.kind == "carbon":
        words = (
            "{rod} is a carbon-steel rod: in stainless it looks well and rusts. Mixing is never"
            " complete, so starts and cap are nearly bare rod. Take a stainless rod."
        )
        found.append(
            WithFix(Stop("carbon-rod", "filler", words, rod=rod.key), "Go by the plan's rod", **own)
        )
    if rod.has("braze"):
        if any(m.has("austenitic") for m in joint.pair):
            words = (
                "Copper runs into the grain boundaries of austenitic stainless and cracks it under"
                " stress. Keep it cool and unloaded, or take a stainless rod."
            )
            found.append(
                WithFix(Care("copper-penetration", "filler", words), "Go by the plan's rod", **own)
            )
        if joint.service in NOT_FOR_BRAZE:
            words = (
                "Silicon bronze is a braze, not a weld: not for what is {service}. Take a welding"
                " rod."
            )
            item = Stop("braze-not-weld", "filler", words, service=SERVICE_WORDS[joint.service])
            found.append(WithFix(item, "Go by the plan's rod", **own))
    return found


def _sulphur(joint: Joint) -> list[Caution]:
    sulphur = joint.which("sulphur")
    if sulphur is None:
        return []
    grave = Stop if joint.service in ("wet", "food", "structural") else Care
    words = (
        "{metal} is full of sulphur, which cracks the weld. Make the part from a grade without it;"
        " if it must be, feed well, dry and unloaded only."
    )
    item = grave("unweldable-303", "filler", words, metal=sulphur)
    sets = {
        f"{which}.metal": m.instead
        for which, m in zip("ab", joint.pair, strict=True)
        if m.has("sulphur")
    }
    return [WithFix(item, "It is made of a grade without sulphur", **sets)]


def _bare_rules(joint: Joint) -> list[Caution]:
    first, second = joint.pair
    names = {"a": first.name, "b": second.name}
    found: list[Caution] = []
    needs = next((m for m in joint.pair if m.has("needs_rod")), None)
    if needs:
        words = (
            "{metal} without filler freezes nearly all ferrite: brittle, and it corrodes. Use"
            " {rod}."
        )
        found.append(
            Stop("duplex-needs-filler", "filler", words, metal=needs.key, rod=needs.own_rod)
        )
    if first.group != second.group:
        words = (
            "{a} and {b} melted together without filler make an unsound mix. Use the rod for the"
            " pair."
        )
        found.append(Stop("no-filler-dissimilar", "filler", words, **names))
    elif first.family != second.family:
        words = (
            "{a} and {b} without filler: the weld is only as good as the mix of the two. The rod"
            " for the pair is safer."
        )
        found.append(Care("no-filler-dissimilar", "filler", words, **names))
    hot = next((m for m in joint.pair if m.has("fully_austenitic")), None)
    if hot:
        words = "{a} is fully austenitic and cracks hot without its rod. Use it."
        found.append(Stop("no-ferrite", "filler", words, a=hot.key))
    hardens = joint.which("hardens")
    if hardens:
        grave = Stop if joint.service == "structural" else Care
        words = "{metal} melted bare hardens and cracks as it cools. Use its rod."
        found.append(grave("bare-hardens", "filler", words, metal=catalogue.metals()[hardens].name))
    elif first.kind == second.kind == "carbon":
        words = (
            "Without filler pores form where the killing of the steel is unknown. {rod} carries the"
            " deoxidisers."
        )
        milder = min((first, second), key=lambda m: catalogue.rods()[m.own_rod].relative_cost)
        found.append(Care("porosity", "filler", words, rod=milder.own_rod))
    if not joint.kind.bare_fit and not (
        joint.kind.has("in_line") and joint.kind.has("closed_back")
    ):
        words = (
            "Without filler {joint} is sound only where one edge stands proud and is washed over;"
            " else the bead is sunk. Use a rod."
        )
        found.append(Care("bare-fit-joint", "filler", words, joint=joint.kind.phrase))
    return [WithFix(item, "Go by the plan's rod", filler="auto") for item in found]
