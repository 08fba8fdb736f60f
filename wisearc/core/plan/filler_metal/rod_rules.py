"""Forbidden uses of a rod or of no rod, whatever the weld metal."""

from __future__ import annotations

from ... import catalogue
from ...catalogue.rows import Rod
from ...joint.joint import SERVICES, Joint
from ...joint.section import Section
from ...reasons import Care, Caution, Note, Stop, WithFix

NOT_FOR_BRAZE = ("structural", "food", "hot")


def check_rod(joint: Joint, section: Section, rod: Rod | None) -> list[Caution]:
    """Return the cautions of a rod (None: autogenous) in a joint.

    Common practice.

    Args:
        joint: The joint.
        section: Its section.
        rod: The rod, or None.
    """
    cautions = _check_sulphur(joint)
    if rod is None:
        return cautions + _check_autogenous(joint)
    automatic = {"filler": "auto"}
    if section.stainless_sides and rod.kind == "carbon":
        text = (
            "Do not weld: {rod} is a carbon-steel rod. In stainless it looks good, then "
            "rusts. Starts and cap are almost pure rod, because mixing is never "
            "complete. Use a stainless rod."
        )
        cautions.append(
            WithFix(
                Stop("carbon-rod", "filler", text, rod=rod.key),
                "Use the recommended rod",
                **automatic,
            )
        )
    if rod.has("braze"):
        if any(m.has("austenitic") for m in joint.pair):
            text = (
                "Copper enters the grain boundaries of austenitic stainless. Under stress it "
                "cracks the sheet. Keep the joint cool and unloaded, or use a stainless rod."
            )
            cautions.append(
                WithFix(
                    Care("copper-penetration", "filler", text),
                    "Use the recommended rod",
                    **automatic,
                )
            )
        if joint.service in NOT_FOR_BRAZE:
            text = (
                "Do not weld: silicon bronze makes a braze, but this joint is for {service}. "
                "The braze will fail. Use a welding rod."
            )
            item = Stop("braze-not-weld", "filler", text, service=SERVICES[joint.service])
            cautions.append(WithFix(item, "Use the recommended rod", **automatic))
    return cautions


def _check_sulphur(joint: Joint) -> list[Caution]:
    sulphur = joint.which("sulphur")
    if sulphur is None:
        return []
    grave = Stop if joint.service in ("wet", "food", "structural") else Care
    text = (
        "{metal} contains much sulphur. Sulphur cracks the weld. Use a grade without "
        "it, or feed much rod and keep the part dry and unloaded."
    )
    item = grave("unweldable-303", "filler", text, metal=sulphur)
    sets = {
        f"{which}.metal": m.instead
        for which, m in zip("ab", joint.pair, strict=True)
        if m.has("sulphur")
    }
    return [WithFix(item, "Use a grade without sulphur", **sets)]


def _check_autogenous(joint: Joint) -> list[Caution]:
    first, second = joint.pair
    names = {"a": first.name, "b": second.name}
    cautions: list[Caution] = []
    needs = next((m for m in joint.pair if m.has("needs_rod")), None)
    if needs:
        text = (
            "Do not weld: {metal} without filler solidifies almost fully as ferrite. The "
            "weld will be brittle and will corrode. Use {rod}."
        )
        cautions.append(
            Stop("duplex-needs-filler", "filler", text, metal=needs.key, rod=needs.own_rod)
        )
    if first.group != second.group:
        text = (
            "Do not weld: {a} and {b} without filler make an unsuitable mix. The weld "
            "will crack or corrode. Use the rod for the pair."
        )
        cautions.append(Stop("no-filler-dissimilar", "filler", text, **names))
    elif first.family != second.family:
        text = (
            "{a} and {b} are joined without filler. The weld depends on the mix of the "
            "two metals. Use the rod for the pair."
        )
        cautions.append(Care("no-filler-dissimilar", "filler", text, **names))
    hot = next((m for m in joint.pair if m.has("fully_austenitic")), None)
    if hot:
        text = (
            "Do not weld: {a} is fully austenitic and has no filler here. The weld will "
            "crack when hot. Use its rod."
        )
        cautions.append(Stop("no-ferrite", "filler", text, a=hot.key))
    hardens = joint.which("hardens")
    if hardens:
        grave = Stop if joint.service == "structural" else Care
        text = "{metal} without filler hardens. The weld cracks as it cools. Use its rod."
        cautions.append(
            grave("bare-hardens", "filler", text, metal=catalogue.load_metals()[hardens].name)
        )
    elif first.kind == second.kind == "carbon":
        text = (
            "Without filler, pores form where the killing of the steel is unknown. Pores "
            "weaken the weld. Use {rod}, which contains deoxidisers."
        )
        milder = min((first, second), key=lambda m: catalogue.load_rods()[m.own_rod].relative_cost)
        # Cold-rolled sheet is killed almost without exception, hot-formed stock is not.
        killed = all(member.form == "sheet" for member in joint.members)
        rod_key = milder.own_rod
        cautions.append(
            Note("porosity", "filler", text, rod=rod_key)
            if killed
            else Care("porosity", "filler", text, rod=rod_key)
        )
    if not joint.kind.bare_fit and not (
        joint.kind.has("in_line") and joint.kind.has("closed_back")
    ):
        text = (
            "Without filler, {joint} works only where one edge stands proud and melts "
            "in. Otherwise the bead is sunk. Use a rod."
        )
        cautions.append(Care("bare-fit-joint", "filler", text, joint=joint.kind.phrase))
    return [WithFix(item, "Use the recommended rod", filler="auto") for item in cautions]
