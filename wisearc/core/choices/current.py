"""How many amps: bench rule, heat flow and own record side by side; one recommended."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from ..figures import Band, ByHand, figure
from ..heat import ARC_VOLTAGE_V, current_for_pool_a
from ..joint import Joint
from ..quantities import length, size, speed
from ..reasons import Caution, Choice, Reason, caution, estimate, note, practice, published, ruled, say
from ..section import Section
from ..shop import Shop
from .travel import Travel

A_PER_MM = 1000 / 25.4
BAND = 0.10
OWN_RUNS_NEEDED = 3
THICK_FROM_MM = 2.4
THICK_EXPONENT = 0.565
CARBON_FACTORS = (1.0, 1.07, 1.15)
WITHOUT_REMOTE = 0.95
FAR_OVER, FAR_UNDER = 1.35, 0.7
THIN_RANGE_MM = (0.5, 3.2)
BEVEL_FROM_MM = 3.0
THICK_TO_THIN = 4.0


@dataclass(frozen=True, kw_only=True)
class Current(Choice):
    """Steady current and its band, A, with the three ways it was reckoned."""

    part: ClassVar[str] = "current"
    answer: ClassVar[str] = "current"
    label: ClassVar[str] = "Current"
    steady_a: float = figure("Steady current", "current", 1, positive=True, compared="Steady current", pin=ByHand("current_a", 3, 400, label="Welding current"))  # fmt: skip
    low_a: float = figure("Least", "current", 1, band=Band("current_a", "Current", low=1.0))
    high_a: float = figure("Most", "current", 1, band=Band("current_a", "Current", high=1.0))
    bench_rule_a: float = figure("By the bench rule", "current", 1)
    heat_flow_a: float = figure("By heat flow", "current", 1)
    own_record_a: float | None = figure("By own record", "current", 1)

    def words(self) -> tuple[str, str]:
        return "{steady_a}", f"{self.low_a:.0f}–{self.high_a:.0f}"


def choose_current(joint: Joint, section: Section, shop: Shop, travel: Travel) -> Current:
    """Choose the steady current. Bench rule: common practice; heat flow: Wells 1952; own record: three runs."""
    bench, bench_reason = bench_rule(joint, section, shop)
    flow = current_for_pool_a(section.heat, section.h_mm, travel.pool_width_mm, travel.speed_mm_s, ARC_VOLTAGE_V)
    own = shop.own_record_a if shop.own_runs >= OWN_RUNS_NEEDED else None
    why, steady = [bench_reason], bench
    if own is not None:
        words = say("Your own record: {n} good runs of like joints.", n=shop.own_runs)
        why, steady = [Reason(words, "own-record", "own-record"), bench_reason], own
    cautions: list[Caution] = []
    if "current_a" in joint.pins:
        pinned = joint.pinned("current_a", steady)
        cautions = _judge_pin(pinned, steady)
        why = [practice("Set by hand; the plan's own is {a} A.", a=f"{steady:.0f}"), *why]
        steady = pinned
    return Current(
        steady_a=steady, low_a=steady * (1 - BAND), high_a=steady * (1 + BAND), bench_rule_a=bench, heat_flow_a=flow, own_record_a=own,
        why=(_three(bench, flow, own), *why, *_side_by_side(joint, section, travel, flow)),
        cautions=(*cautions, *_third_arm(joint, bench, flow), *_thickness_cautions(joint, section)),
    )  # fmt: skip


def bench_rule(joint: Joint, section: Section, shop: Shop) -> tuple[float, Reason]:
    """One amp a thousandth of an inch of the thinner member, by joint, metal, position. Common practice.

    From 2.4 mm up × (2.4/t)^0.565, an estimate that holds 0.85 at 3.2 mm.
    """
    t, carbon = section.reckoned_mm, CARBON_FACTORS[section.carbon_sides]
    thick = (THICK_FROM_MM / t) ** THICK_EXPONENT if t > THICK_FROM_MM else 1.0
    foot = WITHOUT_REMOTE if not shop.machine_pulses and not joint.remote else 1.0
    factors = [carbon, joint.position.current_factor, thick * foot]
    amps = A_PER_MM * t * joint.kind.current_factor
    for factor in factors:
        amps *= factor
    shown = " × ".join(f"{v:.2f}" for v in (joint.kind.current_factor, *(f for f in factors if f != 1.0)))
    words = "1 A a thousandth of an inch: {t}, {joint}" + (", carbon takes more" if carbon > 1 else "") + "."
    reason = ruled(
        practice(words, t=length(t), joint=joint.kind.name), "I = 39.4 A/mm × t × joint × metal × position × thickness",
        "39.4 × {t} × {f} = {a} A", t=f"{t:.3f}", f=shown, a=f"{amps:.0f}",
    )  # fmt: skip
    return amps, reason


def _three(bench: float, flow: float, own: float | None) -> Reason:
    """The three ways side by side; marked by the one that decides."""
    record = f"own record {own:.0f} A" if own is not None else "no own record yet"
    sentence = say("Bench rule {b} A, heat flow {f} A, {o}.", b=f"{bench:.0f}", f=f"{flow:.0f}", o=record)
    mark = "common-practice" if own is None else "own-record"
    return Reason(sentence, mark, mark)


def _side_by_side(joint: Joint, section: Section, travel: Travel, heat_flow: float) -> list[Reason]:
    a, v, w, h = f"{heat_flow:.0f}", speed(travel.speed_mm_s), size(travel.pool_width_mm), length(section.h_mm)
    reasons = [
        ruled(
            published("wells-1952", "Heat flow gives {a} A for a pool {w} wide at {v}.", a=a, w=w, v=v),
            "q = 8 k ΔT h (0.2 + v w / 4a), I = q / (η V)", "h {h}, v {v}, w {w}, 10.5 V, η 0.6 = {a} A", h=h, v=v, w=w, a=a,
        ),
        estimate("arms", "Heat leaves by every arm: as a plate {h} thick.", h=h),
    ]  # fmt: skip
    first, second = joint.pair
    if first.thermal != second.thermal:
        words = "Unlike metals: reckoned with the mean of their heat properties."
        reasons.append(estimate("mixed-pair-thermal", words))
    if section.reckoned_mm > THICK_FROM_MM:
        words = "Thicker than {t} the current grows slower than the sheet."
        reasons.append(estimate("current-thick", words, t=length(THICK_FROM_MM)))
    if section.unlike:
        words = "Thick to thin: reckoned by {t}. Two thirds of the arc on the thick, torch 60–70° to the thin sheet, start and stop on the thick."
        reasons.append(practice(words, t=length(section.reckoned_mm)))
    if not joint.position.has("level"):
        name = joint.position.name.capitalize()
        reasons.append(practice("{name}: {note}", name=name, note=joint.position.note))
    return reasons


def _judge_pin(pinned: float, own: float) -> list[Caution]:
    share = pinned / own
    if FAR_UNDER <= share <= FAR_OVER:
        return []
    words = (
        "{p} A is {n} times the plan's {o} A: the pool runs away and blows through. Come down or go much faster."
        if share > 1
        else "{p} A is far under the plan's {o} A: the edges do not join. Come up or go slower."
    )
    return [caution("current-off", "current", words, p=f"{pinned:.0f}", n=f"{share:.1f}", o=f"{own:.0f}")]


def _third_arm(joint: Joint, bench: float, flow: float) -> list[Caution]:
    """The bench rule knows two members; heat flow counts the third arm."""
    if len(joint.members) < 3:
        return []
    words = "The bench rule does not know the third member, which takes heat too: heat flow asks for {f} A where it gives {b}. Start there and come up on a coupon."
    return [note("third-arm", "current", words, f=f"{flow:.0f}", b=f"{bench:.0f}")]


def _thickness_cautions(joint: Joint, section: Section) -> list[Caution]:
    found, (least, most) = [], THIN_RANGE_MM
    if not least <= section.thin_mm <= most:
        words = "{t} is outside the thin gauge of {a} to {b} these rules are made for: prove it on scrap before you trust it."
        found.append(
            caution("out-of-range", "current", words, t=length(section.thin_mm), a=length(least), b=length(most))
        )
    elif section.thin_mm > BEVEL_FROM_MM and joint.kind.has("in_line"):
        words = "Above {t} a butt wants a bevel and passes: this single run does not reach through."
        found.append(caution("out-of-range", "current", words, t=length(BEVEL_FROM_MM)))
    if section.ratio > THICK_TO_THIN:
        lip = ", or turn a lip on the flange as thick as the tube" if joint.kind.has("flanged") else ""
        words = "More than 4 to 1 in thickness: clamp copper on the thin side{lip}."
        found.append(caution("thick-to-thin", "current", words, lip=lip))
    return found
