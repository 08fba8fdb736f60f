"""The current.

Rule of thumb, heat flow and shop history together, with one recommendation at the planned travel
speed.
"""

from typing import Annotated, Any, ClassVar

from ...history.shop_history import format_summary
from ...joint.joint import Joint
from ...joint.section import Section
from ...quantities import amps_without_unit, format_amps, length, size, speed
from ...reasons import (
    Alternative,
    Care,
    Caution,
    Choice,
    Estimate,
    Note,
    Practice,
    Published,
    Reason,
    Sentence,
    ShopHistory,
    WithFix,
    WithFormula,
)
from ...schema.figures import Band, Figure, Override
from ...shop.bench import Bench
from .need import BENCH, OWN_KEY, OWN_RUNS_NEEDED, RECORD, CurrentModel, need_reasons
from .travel import MAX_DEVIATION, TOLERANCE, Travel

BAND = 0.10
AGREE = 0.10
THIN_RANGE_MM = (0.5, 3.2)
BEVEL_FROM_MM = 3.0
# A smaller deviation of travel speed or post-flow in the shop history is not reported: estimate,
# the error of a clock.
MIN_HISTORY_DEVIATION = 0.05
THICK_TO_THIN = 4.0
MAX_THICK_SIDE_MM = 12.0


class Current(Choice, frozen=True, kw_only=True):
    """The steady current and its range, A, with its three estimates."""

    part: ClassVar[str] = "current"
    answer: ClassVar[str] = "current"
    label: ClassVar[str] = "Current"
    steady_a: Annotated[
        float,
        Figure(
            "Unpulsed current",
            "current",
            1,
            positive=True,
            compared="Unpulsed current",
            pin=Override("current_a", 3, 400, label="Welding current"),
        ),
    ]
    low_a: Annotated[
        float,
        Figure(
            "Minimum",
            "current",
            1,
            band=Band("current_a", "Unpulsed current", low=1.0, told_by="machine_a"),
        ),
    ]
    high_a: Annotated[
        float,
        Figure(
            "Maximum",
            "current",
            1,
            band=Band("current_a", "Unpulsed current", high=1.0, told_by="machine_a"),
        ),
    ]
    bench_rule_a: Annotated[float, Figure("By the rule of thumb", "current", 1)]
    heat_flow_a: Annotated[float, Figure("By heat flow", "current", 1)]
    own_record_a: Annotated[float | None, Figure("From shop history", "current", 1)]
    own_runs: Annotated[int | None, Figure("Good runs in the shop history", "count")]
    own_ratio: Annotated[float | None, Figure("Ratio of shop history to rule of thumb", "plain", 3)]
    own_spread_pct: Annotated[float | None, Figure("Spread of the shop history", "percent", 1)]
    by_record: Annotated[bool, Figure("From shop history")]
    bench_at_pace_a: Annotated[
        float, Figure("By the rule of thumb at this travel speed", "current", 1)
    ]

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        band = f"{format_amps(self.low_a)}–{format_amps(self.high_a)}"
        if not self.by_record or self.own_ratio is None:
            return "{steady_a}", band
        history_text = format_summary(
            self.own_runs or 0, self.own_ratio, self.own_spread_pct or 0.0
        )
        return "{steady_a}", f"{band}; shop history: {history_text}"


def choose_current(
    joint: Joint, section: Section, bench: Bench, need: CurrentModel, travel: Travel
) -> Current:
    """Choose the steady current.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        need: The current model.
        travel: The travel speed.

    References:
        Rule of thumb: common practice. Heat flow: Wells 1952. Shop history: three runs.
    """
    v = travel.speed_mm_s
    steady_a, flow, share = need.steady_a(v), need.heat_flow_a(v), need.share(v)
    rests_on = need_reasons(joint, section, need)
    why = [*_list_history_reasons(need), need.why]
    if abs(share - 1) > 5e-3:
        why.append(_explain_travel_speed(need, v, share, steady_a))
    steady = joint.pins.get("current_a", steady_a)
    cautions: list[Caution] = []
    if "current_a" in joint.pins:
        cautions = _judge_pin(steady, steady_a)
        why = [
            Practice(
                "Set manually. The calculated current is {a} A.", a=amps_without_unit(steady_a)
            ),
            *why,
        ]
    return Current(
        steady_a=steady,
        low_a=steady * (1 - BAND),
        high_a=steady * (1 + BAND),
        bench_rule_a=need.bench_a,
        heat_flow_a=flow,
        own_record_a=need.own_a,
        **_list_history_figures(need),
        bench_at_pace_a=need.bench_a * share,
        others=_list_history_alternatives(need),
        why=(
            _compare_currents(need, flow, steady_a),
            *why,
            _explain_heat_flow(need, flow, v),
            *rests_on,
        ),
        cautions=(*cautions, *_check_thickness(joint, section)),
    )


def _list_history_figures(need: CurrentModel) -> dict[str, Any]:
    if need.own is None:
        return {"own_runs": None, "own_ratio": None, "own_spread_pct": None, "by_record": False}
    return {
        "by_record": need.goes_by_record,
        "own_runs": need.own.counted,
        "own_ratio": need.own.ratio,
        "own_spread_pct": need.own.spread_pct,
    }


def _list_history_reasons(need: CurrentModel) -> list[Reason]:
    """Return the reasons from the shop history, including travel speed and post-flow."""
    history = need.own
    if history is None:
        return []
    wording = "Shop history: {own}."
    if not need.by_record:
        wording += " It is not used here."
    elif not need.goes_by_record:
        wording += " It is used from {few} good runs of similar joints."
    reasons: list[Reason] = [ShopHistory(wording, own=history.words, few=OWN_RUNS_NEEDED)]
    ratios = [
        (history.pace, "at {p} of the planned travel speed"),
        (history.held, "under gas for {h} of the planned post-flow"),
    ]
    displayed = [
        text
        for value, text in ratios
        if value is not None and abs(value - 1) > MIN_HISTORY_DEVIATION
    ]
    if displayed:
        share = {"p": f"{history.pace or 1:.2f}", "h": f"{history.held or 1:.2f}"}
        reasons.append(ShopHistory(f"Those runs went {' and '.join(displayed)}.", **share))
    return reasons


def _list_history_alternatives(need: CurrentModel) -> tuple[Alternative, ...]:
    """Return the alternative of rule of thumb or shop history, if the history is large enough."""
    if need.own is None or need.own_a is None or need.own.counted < OWN_RUNS_NEEDED:
        return ()
    if need.goes_by_record:
        text = "From the rule of thumb, whatever this shop's runs show."
        return (
            Alternative(
                Sentence("{a} A", a=amps_without_unit(need.bench_a)),
                Sentence(text),
                {OWN_KEY: BENCH},
                "own-record",
            ),
        )
    text = "From this shop's history of similar joints."
    return (
        Alternative(
            Sentence("{a} A", a=amps_without_unit(need.own_a)),
            Sentence(text),
            {OWN_KEY: RECORD},
            "own-record",
        ),
    )


def _compare_currents(need: CurrentModel, flow: float, steady_a: float) -> Reason:
    """Return the comparison of the three estimates, with the source of the deciding one."""
    record = (
        f"shop history {format_amps(need.own_a)} A" if need.own_a is not None else "no shop history"
    )
    ratio = flow / steady_a
    agree = (
        "they agree"
        if abs(ratio - 1) <= AGREE
        else f"heat flow needs {abs(ratio - 1) * 100:.0f} % {'more' if ratio > 1 else 'less'}"
    )
    kind = ShopHistory if need.goes_by_record else Practice
    return kind(
        "Rule of thumb {b} A, heat flow {f} A, {o}: {agree}.",
        b=amps_without_unit(need.bench_a),
        f=amps_without_unit(flow),
        o=record,
        agree=agree,
    )


def _explain_travel_speed(need: CurrentModel, v: float, share: float, amps: float) -> Reason:
    text = (
        "At {v} instead of {own} the current is {a} A, because the heat flow depends "
        "on travel speed."
    )
    reason = Estimate(
        "pace-and-current", text, v=speed(v), own=speed(need.speed_mm_s), a=amps_without_unit(amps)
    )
    worked = "{b} × {s} = {a} A"
    rule = "I = bench × (0.2 + v w / 4a) / (0.2 + v₀ w / 4a)"
    return WithFormula(
        reason,
        rule,
        worked,
        b=amps_without_unit(need.base_a),
        s=f"{share:.2f}",
        a=amps_without_unit(amps),
    )


def _explain_heat_flow(need: CurrentModel, flow: float, v: float) -> Reason:
    figures = {
        "a": amps_without_unit(flow),
        "v": speed(v),
        "w": size(need.pool_mm),
        "h": length(need.section.h_mm),
    }
    return WithFormula(
        Published("wells-1952", "Heat flow needs {a} A for a pool {w} wide at {v}.", **figures),
        "q = 8 k ΔT h (0.2 + v w / 4a), I = q / (η V)",
        "h {h}, v {v}, w {w}, 10.5 V, η 0.6 = {a} A",
        **figures,
    )


def _judge_pin(pinned: float, calculated: float) -> list[Caution]:
    share = pinned / calculated
    if abs(share - 1) <= TOLERANCE:
        return []
    is_distant = abs(share - 1) > MAX_DEVIATION
    text = {
        (
            True,
            True,
        ): (
            "{p} A is {n} times the {o} A for this travel speed. The pool runs away and "
            "burns through. Use {o} A."
        ),
        (
            True,
            False,
        ): (
            "{p} A is only {n} times the {o} A for this travel speed. The edges do not "
            "fuse. Use {o} A."
        ),
        (
            False,
            True,
        ): (
            "{p} A is more than the {o} A for this travel speed. The pool widens and "
            "sags. Use {o} A."
        ),
        (
            False,
            False,
        ): (
            "{p} A is less than the {o} A for this travel speed. The edges may not join. Use {o} A."
        ),
    }[is_distant, share > 1]
    item = Care(
        "current-off",
        "current",
        text,
        p=amps_without_unit(pinned),
        n=f"{share:.1f}",
        o=amps_without_unit(calculated),
    )
    return [WithFix(item, "Use the calculated current", **{"pins.current_a": None})]


def _check_thickness(joint: Joint, section: Section) -> list[Caution]:
    cautions: list[Caution] = []
    minimum, maximum = THIN_RANGE_MM
    thin = section.thin_mm
    if not minimum <= thin <= maximum:
        text = (
            "{t} is outside the range of {a} to {b} for these rules. The figures may be "
            "wrong. Test them on scrap first."
        )
        cautions.append(
            Note(
                "out-of-range",
                "current",
                text,
                t=length(thin),
                a=length(minimum),
                b=length(maximum),
            )
        )
    elif thin > BEVEL_FROM_MM and joint.kind.has("in_line"):
        text = (
            "A butt thicker than {t} needs a bevel and several passes. This single pass "
            "does not reach the root. Bevel the edges, or weld from both sides."
        )
        cautions.append(Note("out-of-range", "current", text, t=length(BEVEL_FROM_MM)))
    if section.thick_mm > MAX_THICK_SIDE_MM:
        text = (
            "The heat calculation covers a thick side up to {t}. Beyond that the current "
            "may be too low. Warm the thick side and test on scrap."
        )
        cautions.append(Note("out-of-range", "current", text, t=length(MAX_THICK_SIDE_MM)))
    if section.ratio > THICK_TO_THIN + 1e-6:
        cautions.append(_check_thickness_ratio(joint, section))
    elif section.ratio > 2:
        text = "The thick side counts as {t}, twice the thinner. It needs two thirds of the heat."
        cautions.append(Note("thick-capped", "current", text, t=length(2 * thin)))
    return cautions


def _check_thickness_ratio(joint: Joint, section: Section) -> Caution:
    """Return the caution for a ratio above four to one, with the advice for the joint."""
    which = "b" if joint.members[1].thickness_mm > joint.members[0].thickness_mm else "a"
    taper = joint.kind.has("taper")
    to = THICK_TO_THIN * section.thin_mm if taper else section.thin_mm
    text = (
        (
            "The thickness ratio exceeds 4 to 1. The thin side melts first. Taper the "
            "thick side to {t} or less at the seam, or turn a lip on it as thick as the "
            "thin side. Clamp copper on the thin side."
        )
        if taper
        else (
            (
                "The thickness ratio exceeds 4 to 1. The thin side melts first. Turn a lip "
                "on the flange as thick as the tube, or clamp copper on the thin side and "
                "aim at the thick side."
            )
            if joint.kind.has("flanged")
            else (
                "The thickness ratio exceeds 4 to 1. The thin side melts first. Clamp copper "
                "on the thin side and aim at the thick side, or thin the thick side to {t} "
                "at the seam."
            )
        )
    )
    item = Care("thick-to-thin", "current", text, t=length(to))
    how = "Taper it to that thickness" if taper else "Make it that thin at the seam"
    return WithFix(item, how, **{f"{which}.thickness": f"{to:g} mm"})
