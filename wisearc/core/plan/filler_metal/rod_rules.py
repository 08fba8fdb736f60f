"""What a rod, or none, must not be put to, whatever its weld metal comes to."""

from __future__ import annotations

from ... import catalogue
from ...catalogue.rows import Rod
from ...joint.joint import Joint
from ...joint.section import Section
from ...reasons import Care, Caution, Stop, WithFix
from .service import SERVICE_WORDS

NOT_FOR_BRAZE = ("structural", "food", "hot")


def check_rod(joint: Joint, section: Section, rod: Rod | None) -> list[Caution]:
    """The cautions of a rod (None: bare-fit) at a joint. Common practice."""
    found = _check_sulphur(joint)
    if rod is None:
        return found + _check_autogenous(joint)
    own = {"filler": "auto"}
    if section.stainless_sides and rod.kind == "carbon":
        words = (
            "Do not weld: {rod} is a carbon-steel rod. In stainless it looks good, then "
            "rusts. Starts and cap are almost pure rod, because mixing is never "
            "complete. Use a stainless rod."
        )
        found.append(
            WithFix(
                Stop("carbon-rod", "filler", words, rod=rod.key), "Use the recommended rod", **own
            )
        )
    if rod.has("braze"):
        if any(m.has("austenitic") for m in joint.pair):
            words = (
                "Copper enters the grain boundaries of austenitic stainless. Under stress it "
                "cracks the sheet. Keep the joint cool and unloaded, or use a stainless rod."
            )
            found.append(
                WithFix(
                    Care("copper-penetration", "filler", words), "Use the recommended rod", **own
                )
            )
        if joint.service in NOT_FOR_BRAZE:
            words = (
                "Do not weld: silicon bronze makes a braze, but this joint is for {service}. "
                "The braze will fail. Use a welding rod."
            )
            item = Stop("braze-not-weld", "filler", words, service=SERVICE_WORDS[joint.service])
            found.append(WithFix(item, "Use the recommended rod", **own))
    return found


def _check_sulphur(joint: Joint) -> list[Caution]:
    sulphur = joint.which("sulphur")
    if sulphur is None:
        return []
    grave = Stop if joint.service in ("wet", "food", "structural") else Care
    words = (
        "{metal} contains much sulphur. Sulphur cracks the weld. Use a grade without "
        "it, or feed much rod and keep the part dry and unloaded."
    )
    item = grave("unweldable-303", "filler", words, metal=sulphur)
    sets = {
        f"{which}.metal": m.instead
        for which, m in zip("ab", joint.pair, strict=True)
        if m.has("sulphur")
    }
    return [WithFix(item, "Use a grade without sulphur", **sets)]


def _check_autogenous(joint: Joint) -> list[Caution]:
    first, second = joint.pair
    names = {"a": first.name, "b": second.name}
    found: list[Caution] = []
    needs = next((m for m in joint.pair if m.has("needs_rod")), None)
    if needs:
        words = (
            "Do not weld: {metal} without filler solidifies almost fully as ferrite. The "
            "weld will be brittle and will corrode. Use {rod}."
        )
        found.append(
            Stop("duplex-needs-filler", "filler", words, metal=needs.key, rod=needs.own_rod)
        )
    if first.group != second.group:
        words = (
            "Do not weld: {a} and {b} without filler make an unsuitable mix. The weld "
            "will crack or corrode. Use the rod for the pair."
        )
        found.append(Stop("no-filler-dissimilar", "filler", words, **names))
    elif first.family != second.family:
        words = (
            "{a} and {b} are joined without filler. The weld depends on the mix of the "
            "two metals. Use the rod for the pair."
        )
        found.append(Care("no-filler-dissimilar", "filler", words, **names))
    hot = next((m for m in joint.pair if m.has("fully_austenitic")), None)
    if hot:
        words = (
            "Do not weld: {a} is fully austenitic and has no filler here. The weld will "
            "crack when hot. Use its rod."
        )
        found.append(Stop("no-ferrite", "filler", words, a=hot.key))
    hardens = joint.which("hardens")
    if hardens:
        grave = Stop if joint.service == "structural" else Care
        words = "{metal} without filler hardens. The weld cracks as it cools. Use its rod."
        found.append(
            grave("bare-hardens", "filler", words, metal=catalogue.load_metals()[hardens].name)
        )
    elif first.kind == second.kind == "carbon":
        words = (
            "Without filler, pores form where the killing of the steel is unknown. Pores "
            "weaken the weld. Use {rod}, which contains deoxidisers."
        )
        milder = min((first, second), key=lambda m: catalogue.load_rods()[m.own_rod].relative_cost)
        found.append(Care("porosity", "filler", words, rod=milder.own_rod))
    if not joint.kind.bare_fit and not (
        joint.kind.has("in_line") and joint.kind.has("closed_back")
    ):
        words = (
            "Without filler, {joint} works only where one edge stands proud and melts "
            "in. Otherwise the bead is sunk. Use a rod."
        )
        found.append(Care("bare-fit-joint", "filler", words, joint=joint.kind.phrase))
    return [WithFix(item, "Use the recommended rod", filler="auto") for item in found]
