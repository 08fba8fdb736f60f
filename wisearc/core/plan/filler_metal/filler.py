"""The rod by the chart and by its weld metal, or none for an autogenous weld."""

from typing import Annotated, ClassVar

from msgspec import Struct
from msgspec.structs import replace

from ... import catalogue
from ...catalogue.rows import FillerPair, JointKind, Rod
from ...joint.joint import Joint
from ...joint.section import Section, build_section
from ...physics.chemistry import ROOM_C
from ...quantities import stock
from ...reasons import (
    Alternative,
    Care,
    Caution,
    Choice,
    Estimate,
    Practice,
    Reason,
    Sentence,
    Substitution,
    WithFix,
)
from ...schema.figures import Figure, Override
from ...shop.bench import Bench
from .feeding import DILUTION_SLACK
from .rod_chart import pair_for
from .rod_rules import NOT_FOR_BRAZE
from .rod_size import choose_rod_size, owned_size_mm, planned_travel_mm_s, wanted_size_mm
from .service import can_withstand_service, explain_service
from .weld_metal import DilutionEstimate, calculate_dilution_limits
from .weld_metal_cautions import judge

BARE_FIT_GAP_MM = 0.05
SEVERITY = {"stop": 100, "caution": 10, "note": 0}
# Cautions that no other rod can fix.
NOT_THE_RODS = (
    "coating",
    "unweldable-303",
    "service-unmet",
    "sensitises",
    "rusts-by-nature",
    "carbon-in-food",
    "long-heat",
    "crevice",
    # Within the error of the hand, which no other rod removes.
    "dilution-high",
)


class Filler(Choice, frozen=True, kw_only=True):
    """The rod (None: autogenous), diameter mm, feed length mm, rods, deposit section mm²."""

    part: ClassVar[str] = "filler"
    answer: ClassVar[str] = "filler"
    label: ClassVar[str] = "Filler"
    rod: Annotated[str | None, Figure("Rod")]
    diameter_mm: Annotated[
        float | None,
        Figure("Rod diameter", "stock", positive=True, pin=Override("rod_diameter_mm", 0.5, 3.2)),
    ]
    leg_mm: Annotated[float | None, Figure("Leg of the fillet", "length", 2)]
    length_mm: Annotated[float, Figure("Rod length", "size", 1, compared="Rod length")]
    rods: Annotated[int, Figure("Number of rods", "count")]
    deposit_mm2: Annotated[float, Figure("Section of the deposit", "plain", 3)]

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        if self.rod is None:
            return "none", "no filler, melt the edges"
        leg = "leg {leg_mm}; " if self.leg_mm else ""
        return "{rod} {diameter_mm}", leg + "{length_mm} of it, {rods} rod" + (
            "s" if self.rods != 1 else ""
        )


def choose_filler(joint: Joint, section: Section, bench: Bench) -> Filler:
    """Choose the rod.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.

    References:
        The usual filler charts. Weld metal by calculation. Autogenous welding and service by
        practice.
    """
    pair = pair_for(*joint.pair, joint.service)
    verdicts = _judge_rods(joint, section, pair)
    why: list[Reason]
    if joint.filler == "none":
        rod, why = None, [Practice("Set manually: no filler, the edges melt together.")]
    elif joint.filler != "auto":
        rod = catalogue.load_rods()[joint.filler]
        why = [
            Practice(
                "Set manually: {rod}. The first choice of the chart is {first}.",
                rod=rod.key,
                first=pair.first,
            )
        ]
    else:
        rod, why = _choose_own_rod(joint, section, pair, verdicts)
    wanted, swapped = rod, _find_rod_in_stock(joint, section, bench, rod, verdicts)
    if swapped is not None:
        rod = swapped
    verdict = next((v for v in verdicts if v.rod is rod), None) or _judge_rod(joint, section, rod)
    size = choose_rod_size(joint, section, bench, rod, verdict.estimate.feed)
    cautions = [_add_fix(c, joint, verdict, verdicts) for c in verdict.cautions]
    return Filler(
        rod=rod.key if rod else None,
        diameter_mm=size.diameter_mm,
        length_mm=size.feed_mm,
        rods=size.rods,
        deposit_mm2=size.deposit_mm2,
        leg_mm=verdict.estimate.feed.leg_mm if rod else None,
        swaps=_list_substitutions(wanted, verdict, size.diameter_mm) if swapped else size.swaps,
        why=(
            *_explain_missing_rod(wanted, swapped),
            *why,
            *explain_service(joint, rod, _find_usual_rods(joint)),
            _explain_chart(pair),
            *size.why,
        ),
        others=(*_list_alternatives(joint, section, rod, pair, verdicts), *size.others),
        cautions=(*cautions, *_check_chart(joint, pair, verdict, verdicts), *size.cautions),
    )


def _check_chart(
    joint: Joint, pair: FillerPair, taken: "Verdict", verdicts: "list[Verdict]"
) -> list[Caution]:
    """Return the caution for a rod outside the chart, which only a user chooses."""
    rod, usual = taken.rod, pair_for(*joint.pair)
    charted = (pair.first, *pair.sound, usual.first, *usual.sound)
    if rod is None or rod.key in charted:
        return []
    if any(c.code in ("carbon-rod", "braze-not-weld") for c in taken.cautions):
        return []
    stainless = [m.stainless for m in joint.pair]
    mixed = any(stainless) and not all(stainless)
    limits = [v.estimate.limits.design for v in (taken, verdicts[0])]
    poorer = None not in limits and (limits[0] or 0.0) < (limits[1] or 0.0)
    if rod.has("braze"):
        text = (
            "{rod} makes a braze, which is weaker than a weld. A loaded joint breaks. Use {first} "
            "for any joint that carries a load."
        )
    elif mixed and poorer:
        text = (
            "{rod} does not have enough alloy for stainless to carbon steel. A slip towards the "
            "steel cracks the weld. Use {first}."
        )
    else:
        text = (
            "{rod} is not in the chart for {a} to {b}. Nobody vouches for that weld metal. Use "
            "{first}, or test it on scrap."
        )
    first, second = joint.pair
    names = {"rod": rod.key, "first": pair.first, "a": first.name, "b": second.name}
    item = Care("rod-off-chart", "filler", text, **names)
    return [WithFix(item, "Use the recommended rod", filler="auto")]


def _find_rod_in_stock(
    joint: Joint, section: Section, bench: Bench, wanted: Rod | None, verdicts: "list[Verdict]"
) -> Rod | None:
    """Return another equally suitable rod of the row that is in stock, or None.

    The preferred rod must be out of stock.
    """
    if bench.shop.rods is None or wanted is None or joint.filler != "auto":
        return None
    first = next(v for v in verdicts if v.rod is wanted)
    speed = planned_travel_mm_s(joint, section, bench, wanted, first.estimate.feed)
    size = joint.pins.get(
        "rod_diameter_mm", wanted_size_mm(joint, section, first.estimate.feed, speed)
    )
    suitable = [
        first,
        *(
            v
            for v in verdicts
            if v is not first and v.rod and v.is_suitable and v.failing[0] <= first.failing[0]
        ),
    ]
    candidates = [
        (v.rod, *owned_size_mm(bench, v.rod.key, section, v.estimate.feed, size, speed))
        for v in suitable
        if v.rod
    ]
    lasting = [rod for rod, _, lasts in candidates if lasts]
    some = [rod for rod, size_mm, _ in candidates if size_mm is not None]
    taken = next(iter(lasting or some), wanted)
    return None if taken is wanted else taken


def _explain_missing_rod(wanted: Rod | None, taken: Rod | None) -> tuple[Reason, ...]:
    if wanted is None or taken is None:
        return ()
    return (
        Practice(
            ("There is not enough {w} in stock for this sheet. {u} is in stock and suitable here."),
            w=wanted.key,
            u=taken.key,
        ),
    )


def _list_substitutions(
    wanted: Rod | None, taken: "Verdict", diameter_mm: float | None
) -> tuple[Substitution, ...]:
    """Return the disadvantages of the rod in stock against the preferred one."""
    assert wanted is not None and taken.rod is not None
    used = Sentence("{r} {d}", r=taken.rod.key, d=stock(diameter_mm or 0.0))
    why = Sentence(
        "{u}: {what} {price}",
        u=taken.rod.key,
        what=describe(taken.estimate, taken.cautions),
        price=_format_price(taken.rod),
    )
    return (Substitution("filler", Sentence(wanted.key), used, why),)


def _find_usual_rods(joint: Joint) -> tuple[str, ...]:
    """Return the rods of the pair without service requirements."""
    pair = pair_for(*joint.pair)
    return (pair.first, *pair.sound)


def _explain_chart(pair: FillerPair) -> Reason:
    suitable_text = f", also suitable: {', '.join(pair.sound)}" if pair.sound else ""
    return Reason(
        Sentence("From the chart: {first}{sound}.", first=pair.first, sound=suitable_text),
        pair.source,
        pair.mark,
    )


def can_omit_filler(joint: Joint) -> bool:
    """Return whether the joint can be autogenous.

    Corner or edge, no gap, similar metals of a weldable group. Common practice: never with a gap,
    never duplex, fully austenitic or dissimilar pairs; steel needs its deoxidised rod. Structural
    work needs the section of the rod.
    """
    return joint.kind.bare_fit and _can_melt_together(joint)


def _can_melt_together(joint: Joint) -> bool:
    """Return whether metals and fit-up allow an autogenous weld."""
    first, second = joint.pair
    like = first.family == second.family
    is_weldable = first.stainless and not first.has("not_bare")
    return (
        joint.gap_mm <= BARE_FIT_GAP_MM and like and is_weldable and joint.service != "structural"
    )


class Verdict(Struct, frozen=True):
    """The result of a rod (None: autogenous): its weld metal and its cautions."""

    rod: Rod | None
    estimate: DilutionEstimate
    cautions: tuple[Caution, ...]

    @property
    def failing(self) -> tuple[int, float, float]:
        """Return the severity, larger is worse.

        Cautions by level, excess dilution, then lack of margin.
        """
        level = sum(SEVERITY[c.level] for c in self.cautions if c.code not in NOT_THE_RODS)
        even = self.estimate.limits.design
        return level, self.estimate.over, -(even if even is not None else 0.0)

    @property
    def is_suitable(self) -> bool:
        """Return whether the rod is suitable as far as the calculation shows."""
        return self.failing[0] < SEVERITY["caution"] and self.estimate.over <= DILUTION_SLACK


def _judge_rod(joint: Joint, section: Section, rod: Rod | None) -> Verdict:
    estimate = calculate_dilution_limits(joint, section, rod)
    return Verdict(rod, estimate, judge(joint, section, rod, estimate))


def _judge_rods(joint: Joint, section: Section, pair: FillerPair) -> list[Verdict]:
    """Return every rod of the chart row in order, with those unsuitable for the service last."""
    rods = [catalogue.load_rods()[key] for key in dict.fromkeys((pair.first, *pair.sound))]
    rods.sort(key=lambda rod: not can_withstand_service(joint, rod))
    return [_judge_rod(joint, section, rod) for rod in rods]


def _choose_own_rod(
    joint: Joint, section: Section, pair: FillerPair, verdicts: list[Verdict]
) -> tuple[Rod | None, list[Reason]]:
    if can_omit_filler(joint) and _judge_rod(joint, section, None).failing[0] == 0:
        text = "Autogenous {joint}: the edges supply the weld metal."
        return None, [Practice(text, joint=joint.kind.name)]
    first = verdicts[0]
    chosen = (
        first
        if first.is_suitable
        else next((v for v in verdicts if v.is_suitable), min(verdicts, key=lambda v: v.failing))
    )
    assert chosen.rod is not None
    listed = Reason(Sentence("{rod}: {why}", rod=pair.first, why=pair.why), pair.source, pair.mark)
    if chosen.rod.key == pair.first:
        return chosen.rod, [listed]
    if "service-unmet" in _list_codes(first):
        return chosen.rod, [
            Practice("No rod suits this service. The figures are for {rod}.", rod=chosen.rod.key),
            listed,
        ]
    if first.rod is not None and first.rod.key != pair.first:
        text = (
            "The first choice of the chart is {first}, but it does not withstand this "
            "service. {rod} does."
        )
        return chosen.rod, [Practice(text, first=pair.first, rod=chosen.rod.key), listed]
    return chosen.rod, [_explain_other_rod(first, chosen, pair.first), listed]


def _explain_other_rod(first: Verdict, chosen: Verdict, chart: str) -> Reason:
    """Return the reason for another rod than that of the chart.

    The failure of its weld metal in figures.
    """
    even, minimum = first.estimate.limits.design, first.estimate.dilution
    figures = {"first": chart, "rod": chosen.rod.key if chosen.rod else ""}
    if even is not None and first.estimate.over > DILUTION_SLACK:
        text = (
            "{first} allows {even} % melted sheet, but manual feeding cannot get below "
            "{least} % here. {rod} allows {own} %."
        )
        default_rod = chosen.estimate.limits.design
        more = {
            "even": f"{100 * even:.0f}",
            "least": f"{100 * minimum:.0f}",
            "own": f"{100 * (default_rod if default_rod is not None else 1):.0f}",
        }
        return Estimate("dilution-by-joint", text, **figures, **more)
    why = next(
        c.sentence
        for c in first.cautions
        if SEVERITY[c.level] >= SEVERITY["caution"] and c.code not in NOT_THE_RODS
    )
    return Estimate("dilution-by-joint", "Not {first}: {why} {rod} does not.", **figures, why=why)


def _add_fix(item: Caution, joint: Joint, taken: Verdict, verdicts: list[Verdict]) -> Caution:
    """Add to a caution the rod of the chart that avoids it, and never the rod it warns about."""
    if item.sets or item.level == "note":
        return item
    better = next(
        (
            v
            for v in verdicts
            if v.rod is not taken.rod and item.code not in _list_codes(v) and v.is_suitable
        ),
        None,
    )
    if better is not None and better.rod is not None:
        return WithFix(item, f"Use {better.rod.key}", filler=better.rod.key)
    if joint.filler != "auto":
        return WithFix(item, "Use the recommended rod", filler="auto")
    kind = _find_better_joint(joint, taken, item.code)
    return WithFix(item, f"Change to {kind.phrase}", joint=kind.key) if kind else item


def _find_better_joint(joint: Joint, taken: Verdict, code: str) -> JointKind | None:
    """Return a lap or fillet in which the rod avoids a caution, or None.

    Its weld is mostly filler. The forms stay the same.
    """
    for kind in catalogue.load_joint_kinds().values():
        mostly_rod = kind.deposit == "fillet" and kind.least_dilution < joint.kind.least_dilution
        # A rod also meets a plate as a tee.
        upright = joint.kind.has("stud") and kind.forms == "sheet" and kind.has("inner")
        if (kind.forms == joint.kind.forms or upright) and mostly_rod:
            other = replace(joint, kind=kind, leg=None)
            if code not in _list_codes(_judge_rod(other, build_section(other), taken.rod)):
                return kind
    return None


def _list_codes(verdict: Verdict) -> set[str]:
    return {c.code for c in verdict.cautions if c.level != "note"}


def _list_alternatives(
    joint: Joint, section: Section, rod: Rod | None, pair: FillerPair, verdicts: list[Verdict]
) -> list[Alternative]:
    """Return the alternatives, the most suitable first, with their costs."""
    ranked: list[tuple[tuple[int, float, float], Alternative]] = []
    for verdict in verdicts:
        candidate = verdict.rod
        if candidate is None or candidate is rod:
            continue
        sentence = Sentence(
            "{what} {price} {note}",
            what=describe(verdict.estimate, verdict.cautions),
            price=_format_price(candidate),
            note=candidate.note,
        )
        approach = "filler" if candidate.key == pair.other_school else ""
        other = Alternative(
            Sentence("{rod}", rod=candidate.key),
            sentence,
            {"filler": candidate.key},
            approach,
            pair.source,
            pair.mark,
        )
        ranked.append((verdict.failing, other))
    clean_tube = (
        joint.kind.has("in_line") and joint.kind.has("closed_back") and _can_melt_together(joint)
    )
    if rod is not None and (can_omit_filler(joint) or clean_tube):
        text = "No filler is needed here: no gap, similar metals." + (
            " With a purge this is the usual clean tube seam." if clean_tube else ""
        )
        none = Alternative(Sentence("no filler"), Sentence(text), {"filler": "none"})
        ranked.append((_judge_rod(joint, section, None).failing, none))
    alternatives = [other for _, other in sorted(ranked, key=lambda row: row[0])]
    if joint.service not in NOT_FOR_BRAZE and (
        section.stainless_sides or section.carbon_sides == 2
    ):
        alternatives += [
            _build_braze_alternative(key)
            for key, r in catalogue.load_rods().items()
            if r.has("braze") and (rod is None or key != rod.key)
        ]
    return alternatives


def _build_braze_alternative(rod: str) -> Alternative:
    text = (
        "Silicon bronze makes a braze, not a weld. It suits hard-to-weld pairs at "
        "low stress. On austenitic stainless, copper can crack the sheet."
    )
    return Alternative(Sentence("{rod}", rod=rod), Sentence(text), {"filler": rod})


def describe(estimate: DilutionEstimate, cautions: tuple[Caution, ...]) -> str:
    """Return a short description of a weld metal.

    Ferrite or chromium, martensite, and its worst caution.

    Args:
        estimate: The dilution estimate.
        cautions: Its cautions.
    """
    metal, even = estimate.metal, estimate.limits.design
    has_ferrite = metal.ferrite_pct is not None
    wording = [
        f"ferrite {metal.ferrite_pct:.0f} %"
        if has_ferrite
        else f"chromium {metal.chromium_pct:.1f} %"
    ]
    if even is not None and even < 1:
        wording.append(f"allows {100 * even:.0f} % melted sheet")
    if metal.martensite_start_c is not None and metal.martensite_start_c > ROOM_C:
        wording.append("hard martensite")
    worst = next((c for level in ("stop", "caution") for c in cautions if c.level == level), None)
    if worst:
        wording.append(worst.code.replace("-", " "))
    text = ", ".join(wording)
    return text[0].upper() + text[1:] + "."


def _format_price(rod: Rod) -> str:
    usual = next(r.key for r in catalogue.load_rods().values() if r.relative_cost == 1)
    if rod.relative_cost == 1:
        return "The lowest price of its kind."
    return f"About {rod.relative_cost:g} times the price of {usual} (estimate)."
