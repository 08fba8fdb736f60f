"""The root cover: purge, bars, paste, or none, with their requirements."""

import math
from typing import Annotated, ClassVar

from ... import catalogue
from ...catalogue.rows import BackCover
from ...joint.joint import SERVICES, Joint
from ...joint.section import Section
from ...physics.heat import GLOW_C
from ...quantities import flow, format_count, format_plain, length, temperature
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
    Substitution,
    WithFix,
    WithFormula,
)
from ...schema.figures import Figure
from ...schema.json_types import JsonObject
from ...shop.bench import Bench
from ..arc.need import CurrentModel
from ..filler_metal.service import LIQUID, is_in_liquid
from .bars import (
    ALUMINIUM_MELTS_C,
    bar_length_mm,
    bars_mm,
    check_bars,
    explain_near_face,
    has_groove,
    is_tint_visible,
    list_bar_alternatives,
)
from .purge import Purge, build_groove_purge, build_purge, purge_cautions, purge_reasons

STRAW_C, NO_COVER_FROM_MM = 370.0, 2.5
MAX_STRAW_C, MELTING_C = 340.0, 1450.0
# Behind a stud that is washed over in a few seconds: tint, but no red heat. Estimate.
STUD_BACK_C = 450.0
_RULE = (
    "first suitable: all carbon steel → open; a fillet whose root stays below "
    "straw → open; tube or a closed space → purge; a metal that must not be "
    "chilled → purge; else copper bars"
)
# The key of the joint that requests less oxygen.
TARGET_KEY = "purge_target_ppm"


class Back(Choice, frozen=True, kw_only=True):
    """The root cover.

    Name, gas, number of bar lengths, bar length mm, distance from the seam mm and maximum thickness
    next to the cup mm (None: no room), temperature behind a fillet °C (None: melted through), heat
    transfer W/mm²K, and drawing.
    """

    part: ClassVar[str] = "back"
    answer: ClassVar[str] = "back"
    label: ClassVar[str] = "Root side"
    cover: Annotated[str, Figure("Root cover")]
    cover_name: Annotated[str, Figure("Root")]
    purge: Annotated[Purge | None, Figure("Back purge", holds=Purge)]
    bar_lengths: Annotated[int, Figure("Bar positions", "count")]
    bar_length_mm: Annotated[float, Figure("Bar length", "length", positive=True)]
    bar_from_seam_mm: Annotated[float, Figure("Bar distance from the seam", "length", 2)]
    bar_most_mm: Annotated[
        float | None, Figure("Maximum bar thickness next to the cup", "length", 1)
    ]
    back_c: Annotated[float | None, Figure("Root of the fillet", "temperature", 0)]
    contact_w_mm2k: Annotated[float, Figure("Bar contact", "plain")]
    ink: Annotated[str, Figure("Bar drawing")]
    bar_gas: Annotated[bool, Figure("Argon in the groove of the bars")] = False

    @property
    def barred(self) -> bool:
        """Return whether bars are next to the seam."""
        return self.contact_w_mm2k > 0

    @property
    def purged(self) -> bool:
        """Return whether the space behind is filled with argon."""
        return self.purge is not None and not self.barred

    def line(self, units: str) -> tuple[str, str]:
        """Return the answer and its detail in a unit system."""
        parts = []
        if self.bar_lengths:
            parts.append(format_count(self.bar_lengths, "bar position"))
        if self.purge:
            where = " in the groove" if self.barred else ""
            before, weld = (
                flow(q).text(units) for q in (self.purge.preflow_l_min, self.purge.weld_flow_l_min)
            )
            wait = (
                ""
                if self.purge.minutes_volumes is None
                else f" for {format_minutes(self.purge.before_s)}"
            )
            if wait or before != weld:
                parts.append(f"{before}{wait} before the arc, then {weld}{where}")
            else:
                parts.append(f"{weld}{where}")
        return self.cover_name, "; ".join(parts)


def format_minutes(seconds: float) -> str:
    """Return a wait in words: "40 s", "2.5 min".

    >>> format_minutes(40), format_minutes(150), format_minutes(7260)
    ('40 s', '2.5 min', '121 min')
    """
    return f"{seconds:.0f} s" if seconds < 60 else f"{format_plain(seconds / 60, 1)} min"


def choose_back(joint: Joint, section: Section, bench: Bench, need: CurrentModel) -> Back:
    """Choose the root cover.

    Common practice. Bar positions and the temperature behind a fillet: estimates.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        need: The current model.
    """
    covers, hot = catalogue.back_covers(), back_c(joint, section)
    key, reason = _choose_own_cover(joint, section, hot)
    selected = covers[key]
    reason = WithFormula(reason, _RULE, "{own}", own=selected.name)
    cover = selected
    why: list[Reason] = [reason]
    if joint.back != "auto":
        cover, why = (
            covers[joint.back],
            [Practice("Set manually. The recommended cover is {own}.", own=selected.name), reason],
        )
    elif (other := _find_cover_in_stock(joint, section, bench, selected, hot)) is not None:
        cover, why = (
            other,
            [
                Practice(
                    "{own} is out of stock. {name} {are} in stock.",
                    own=selected.name,
                    name=other.name,
                    are="are" if other.metal else "is",
                ),
                reason,
            ],
        )
    purge = _purge(joint, section, bench, cover)
    bar = bar_length_mm(bench, cover)
    lengths = math.ceil(section.length_mm / bar - 1e-9) if cover.has("bar") else 0
    from_seam, thickest = bars_mm(joint, need)
    barred = cover.has("bar")
    why += _explain_cover(joint, section, cover, purge, lengths, bar, from_seam, thickest)
    return Back(
        cover=cover.key,
        cover_name=cover.name,
        purge=purge,
        bar_lengths=lengths,
        bar_length_mm=bar,
        swaps=_list_substitutions(selected, cover) if joint.back == "auto" else (),
        bar_from_seam_mm=from_seam if barred else 0.0,
        bar_most_mm=thickest if barred else None,
        back_c=hot,
        contact_w_mm2k=cover.contact_w_mm2k,
        ink=cover.ink,
        bar_gas=barred and purge is not None,
        why=tuple(why),
        others=(
            *_list_alternatives(joint, section, cover, hot),
            *list_bar_alternatives(joint, section, cover, purge),
        ),
        cautions=(
            *_check_cover(joint, section, cover, purge, hot, selected.key),
            *check_bars(joint, section, bench, cover, purge),
        ),
    )


def has_cover(bench: Bench, cover: BackCover) -> bool | None:
    """Return whether the bars and other needs of a cover are in stock.

    None: unknown, or nothing is needed.

    Args:
        bench: The bench.
        cover: The cover.
    """
    shop = bench.shop
    bars = (
        None
        if not cover.metal or shop.bars is None
        else any(b.count and b.metal == cover.metal for b in shop.bars)
    )
    takes = None if not cover.takes or shop.has is None else cover.takes in shop.has
    required = [traits for traits in (bars, takes) if traits is not None]
    return all(required) if required else None


def _has_fitting_cover(joint: Joint, bench: Bench, cover: BackCover) -> bool | None:
    """Return whether a cover is in stock; where liquid attacks tint, bars need a groove."""
    if is_in_liquid(joint) and has_groove(bench, cover) is False:
        return False
    return has_cover(bench, cover)


def _find_cover_in_stock(
    joint: Joint, section: Section, bench: Bench, selected: BackCover, hot: float | None
) -> BackCover | None:
    """Return another equally suitable cover in stock, the nearest in heat transfer, or None."""
    if _has_fitting_cover(joint, bench, selected) is not False:
        return None

    def serious(cover: BackCover) -> int:
        purge = _purge(joint, section, bench, cover)
        cautions = _check_cover(joint, section, cover, purge, hot, selected.key)
        return sum(item.level != "note" for item in cautions)

    others = [
        c
        for c in catalogue.back_covers().values()
        if c is not selected and _has_fitting_cover(joint, bench, c) is not False
    ]
    suitable = [c for c in others if serious(c) <= serious(selected)]
    return min(
        suitable, key=lambda c: abs(c.contact_w_mm2k - selected.contact_w_mm2k), default=None
    )


def _list_substitutions(selected: BackCover, taken: BackCover) -> tuple[Substitution, ...]:
    if taken is selected:
        return ()
    why = Sentence(taken.cost, melts=temperature(ALUMINIUM_MELTS_C))
    return (
        Substitution("back", Sentence("{n}", n=selected.name), Sentence("{n}", n=taken.name), why),
    )


def back_c(joint: Joint, section: Section) -> float | None:
    """Return the temperature behind a fillet, °C, by the thinner member.

    Linear from melting to 340 °C at 2.5 mm. None: melted through.

    Args:
        joint: The joint.
        section: Its section.

    References:
        Estimate.
    """
    if not joint.kind.has("back_apart"):
        return None
    if joint.kind.has("stud"):
        return STUD_BACK_C
    share = min(1.0, section.thin_mm / NO_COVER_FROM_MM)
    return MELTING_C - share * (MELTING_C - MAX_STRAW_C)


def _is_closed(joint: Joint) -> bool:
    return joint.kind.has("closed_back") or joint.back_access == "closed"


def is_data_closed(joint: JsonObject) -> bool:
    """Return whether the root in the data of a joint cannot be reached from behind."""
    kind = catalogue.load_joint_kinds().get(str(joint.get("joint")))
    return bool(kind and kind.has("closed_back")) or joint.get("back_access") == "closed"


def _choose_own_cover(joint: Joint, section: Section, hot: float | None) -> tuple[str, Reason]:
    if section.stainless_sides == 0:
        return "open", Practice("The root of carbon steel needs no cover.")
    if joint.kind.has("stud"):
        return "open", Practice(
            "A stud heats a small spot for a few seconds. Its back tints at most."
        )
    if hot is not None and (hot <= STRAW_C or (hot <= GLOW_C and not is_tint_visible(joint))):
        text = "The root of this fillet does not melt through and stays below about {t}: {what}."
        need = (
            "at most straw, no cover needed" if hot <= STRAW_C else "it tints but does not oxidise"
        )
        return "open", Estimate("back-heat", text, t=temperature(hot), what=need)
    if joint.kind.has("closed_back"):
        return "purge", Practice(
            "The tube encloses its own space. Argon inside covers the whole hot root."
        )
    if joint.back_access == "closed":
        return "purge", Practice(
            "The root is not accessible. Fill the space behind it with argon: feed at "
            "the bottom, vent at the top."
        )
    chilled = joint.which("no_chill")
    if chilled:
        return "purge", Practice(
            "{metal} must not be chilled at the seam. Use argon behind it, not bars.", metal=chilled
        )
    text = "Copper bars remove heat and cover the root. A bare root oxidises where it glows."
    return "copper-bar", Practice(text)


def _purge(joint: Joint, section: Section, bench: Bench, cover: BackCover) -> Purge | None:
    if cover.has("gas"):
        return build_purge(joint, section)
    wanted = joint.bar_gas == "yes" or (joint.bar_gas == "auto" and is_tint_visible(joint))
    can_feed = joint.bar_gas == "yes" or has_groove(bench, cover) is not False
    if cover.has("bar") and wanted and can_feed and section.stainless_sides:
        return build_groove_purge(joint)
    return None


def _explain_cover(
    joint: Joint,
    section: Section,
    cover: BackCover,
    purge: Purge | None,
    lengths: int,
    bar: float,
    from_seam: float,
    thickest: float | None,
) -> list[Reason]:
    if purge and cover.has("gas"):
        return purge_reasons(joint, section, purge)
    reasons: list[Reason] = []
    if cover.has("bar"):
        where = (
            "on both faces of the corner"
            if joint.kind.has("bars_both_faces")
            else "on the near face and the root"
        )
        text = (
            "Bars {where}, {from_seam} from the seam, {n} of {bar}. Weld along one "
            "position, move the bars and weld the next."
        )
        if joint.kind.has("back_apart"):
            text = (
                "Bars close under the root. On the near face only beyond the cup. {n} of "
                "{bar}: weld along one position, move the bars and weld the next."
            )
        figures = {"where": where, "n": format_count(lengths, "length"), "bar": length(bar)}
        reasons.append(Practice(text, from_seam=length(from_seam), **figures))
        reasons += explain_near_face(joint, thickest)
    if cover.has("smears") and section.stainless_sides:
        text = (
            "Use grooved or plated bars, and never let the arc touch them. Copper "
            "smeared into stainless cracks it."
        )
        reasons.append(Practice(text))
    if purge:
        text = "A flush bar does not exclude all air. Feed {q} of argon into its groove."
        reasons.append(Estimate("purge-side-flow", text, q=flow(purge.weld_flow_l_min)))
    return reasons


def _list_alternatives(
    joint: Joint, section: Section, taken: BackCover, hot: float | None
) -> list[Alternative]:
    steel = ("open", "copper-bar", "purge")
    return [
        Alternative(
            Sentence("{name}", name=cover.name),
            Sentence(cover.cost, melts=temperature(ALUMINIUM_MELTS_C)),
            {"back": cover.key},
        )
        for cover in catalogue.back_covers().values()
        if cover is not taken
        and not (_is_closed(joint) and cover.has("bar"))
        and (section.stainless_sides or cover.key in steel)
    ]


def _check_cover(
    joint: Joint,
    section: Section,
    cover: BackCover,
    purge: Purge | None,
    hot: float | None,
    key: str,
) -> list[Caution]:
    cautions: list[Caution] = []
    if section.stainless_sides:
        cautions += _check_bare_root(joint, cover, hot)
    chilled = joint.which("no_chill")
    if cover.has("bar") and chilled:
        text = (
            "Bars cool {metal} too fast. The weld keeps too much ferrite. Purge the root "
            "and remove the bars from the seam."
        )
        cautions.append(Care("chill-on-duplex", "back", text, metal=chilled))
    if cover.has("bar") and _is_closed(joint):
        text = (
            "Bars do not reach the whole root of this joint, and a closed space traps them. The "
            "open part oxidises. Use a purge."
        )
        cautions.append(Care("back-bare", "back", text))
    if cover.has("melts") and joint.kind.has("under_root"):
        text = (
            "Aluminium melts at {t}. Under the root it melts into the weld. Place it "
            "next to the seam, and use copper behind."
        )
        cautions.append(
            Care("aluminium-under-root", "back", text, t=temperature(ALUMINIUM_MELTS_C))
        )
    name = catalogue.back_covers()[key].name
    cautions = [
        item if item.level == "note" else WithFix(item, f"Use {name}", back="auto")
        for item in cautions
    ]
    if purge and cover.has("gas"):
        cautions += purge_cautions(joint, purge)
    return cautions


def _check_bare_root(joint: Joint, cover: BackCover, hot: float | None) -> list[Caution]:
    if cover.has("bare"):
        return _check_open_root(joint, hot)
    if not cover.has("paste"):
        return []
    if joint.service == "food" or joint.kind.has("closed_back"):
        text = (
            "Do not weld: flux residue cannot be removed from a closed root, or one in "
            "contact with food. It corrodes the part. Purge the root."
        )
        return [Stop("back-bare", "back", text)]
    cautions: list[Caution] = [
        Note("fume-flux", "back", "Flux fume contains fluoride. Extract at the source.")
    ]
    if joint.finish == "show" or joint.service == "wet":
        text = (
            "Flux is hard to remove and traps water. It spoils the look and corrodes the "
            "joint. Use bars or a purge."
        )
        cautions.append(Care("flux-stays", "back", text))
    return cautions


def _check_open_root(joint: Joint, hot: float | None) -> list[Caution]:
    """Check a root without cover, by its temperature."""
    if hot is not None and hot <= STRAW_C:
        return []
    if hot is not None and hot <= GLOW_C:
        text = (
            "The back of this joint tints, at about {t}. The tint can rust where it is "
            "wet. Clean it, or cover the back."
        )
        # The spot behind a stud is small, and easy to clean.
        level = Care if is_tint_visible(joint) and not joint.kind.has("stud") else Note
        return [level("back-tints", "back", text, t=temperature(hot))]
    if joint.service in ("structural", *LIQUID):
        text = (
            "Do not weld: the back is open, but this joint is for {service}. The "
            "root will oxidise. Purge it or use a chill bar."
        )
        return [Stop("back-bare", "back", text, service=SERVICES[joint.service])]
    text = (
        "The back is open. The root oxidises where it glows. Leave it open only "
        "where the root stays cool or does not matter."
    )
    return [Care("back-bare", "back", text)]
