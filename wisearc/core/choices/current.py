"""How many amps: bench rule, heat flow and own record side by side; one recommended."""

from __future__ import annotations

from dataclasses import dataclass

from ..heat import ARC_VOLTAGE_V, current_for_pool_a
from ..quantities import length, size, speed
from ..reasons import Caution, Choice, Reason, caution, estimate, note, practice, say
from .rhythm import Rhythm
from .so_far import SoFar

A_PER_MM = 1000 / 25.4
BAND = 0.10
OWN_RUNS_NEEDED = 3
THICK_FROM_MM = 2.4
THICK_EXPONENT = 0.565


@dataclass(frozen=True, kw_only=True)
class Current(Choice):
    """Steady current and its band, A, with the three ways it was reckoned."""

    steady_a: float
    low_a: float
    high_a: float
    bench_rule_a: float
    heat_flow_a: float
    own_record_a: float | None


def choose(so_far: SoFar) -> Current:
    """Choose the steady current. Bench rule: common practice; heat flow: Wells 1952; own record: three runs."""
    rhythm = so_far.get(Rhythm)
    bench, bench_reason = bench_rule(so_far)
    flow = current_for_pool_a(
        so_far.section.heat, so_far.section.h_mm, rhythm.pool_width_mm, rhythm.travel_mm_s, ARC_VOLTAGE_V
    )
    own = so_far.shop.own_record_a if so_far.shop.own_runs >= OWN_RUNS_NEEDED else None
    steady, why = bench, [bench_reason]
    if own is not None:
        steady, why = (
            own,
            [
                Reason(
                    say("Your own record: {n} good runs of like joints.", n=so_far.shop.own_runs),
                    "own-record",
                    "own-record",
                ),
                bench_reason,
            ],
        )
    pinned = so_far.joint.pin("current_a")
    cautions: list[Caution] = []
    if pinned:
        cautions = _judge_pin(pinned, steady)
        why = [practice("Set by hand; the plan's own is {a} A.", a=f"{steady:.0f}"), *why]
        steady = pinned
    why = [_three(bench, flow, own), *why, *_side_by_side(so_far, flow)]
    return Current(
        steady_a=steady, low_a=steady * (1 - BAND), high_a=steady * (1 + BAND), bench_rule_a=bench,
        heat_flow_a=flow, own_record_a=own, why=tuple(why), cautions=(*cautions, *_third_arm(so_far, bench, flow), *_thickness_cautions(so_far)),
    )  # fmt: skip


def bench_rule(so_far: SoFar) -> tuple[float, Reason]:
    """One amp a thousandth of an inch of the thinner member, by joint, metal, position. Common practice.

    From 2.4 mm up × (2.4/t)^0.565, an estimate that holds 0.85 at 3.2 mm.
    """
    joint, section = so_far.joint, so_far.section
    t = section.reckoned_mm
    carbon = {0: 1.0, 1: 1.07}.get(section.carbon_sides, 1.15)
    thick = (THICK_FROM_MM / t) ** THICK_EXPONENT if t > THICK_FROM_MM else 1.0
    foot = 0.95 if not so_far.shop.machine_pulses and not joint.remote else 1.0
    factors = {
        "joint": joint.kind.current_factor,
        "metal": carbon,
        "position": joint.position.current_factor,
        "thick": thick * foot,
    }
    amps = A_PER_MM * t
    for factor in factors.values():
        amps *= factor
    shown = " × ".join(f"{v:.2f}" for k, v in factors.items() if k == "joint" or v != 1.0)
    words = "1 A a thousandth of an inch: {t}, {joint}" + (", carbon takes more" if carbon > 1 else "") + "."
    reason = Reason(
        say(words, t=length(t), joint=joint.kind.name), "common-practice", "common-practice",
        formula="I = 39.4 A/mm × t × joint × metal × position × thickness",
        worked=say("39.4 × {t} × {f} = {a} A", t=f"{t:.3f}", f=shown, a=f"{amps:.0f}"),
    )  # fmt: skip
    return amps, reason


def _three(bench: float, flow: float, own: float | None) -> Reason:
    """The three ways side by side; marked by the one that decides."""
    record = f"own record {own:.0f} A" if own is not None else "no own record yet"
    sentence = say("Bench rule {b} A, heat flow {f} A, {o}.", b=f"{bench:.0f}", f=f"{flow:.0f}", o=record)
    mark = "common-practice" if own is None else "own-record"
    return Reason(sentence, mark, mark)


def _side_by_side(so_far: SoFar, heat_flow: float) -> list[Reason]:
    section, rhythm = so_far.section, so_far.get(Rhythm)
    reasons = [
        Reason(
            say("Heat flow gives {a} A for a pool {w} wide at {v}.", a=f"{heat_flow:.0f}", w=size(rhythm.pool_width_mm), v=speed(rhythm.travel_mm_s)),
            "wells-1952", "published", formula="q = 8 k ΔT h (0.2 + v w / 4a), I = q / (η V)",
            worked=say("h {h}, v {v}, w {w}, 10.5 V, η 0.6 = {a} A", h=length(section.h_mm), v=speed(rhythm.travel_mm_s), w=size(rhythm.pool_width_mm), a=f"{heat_flow:.0f}"),
        )
    ]  # fmt: skip
    reasons.append(estimate("arms", "Heat leaves by every arm: as a plate {h} thick.", h=length(section.h_mm)))
    if so_far.joint.metals[0].thermal != so_far.joint.metals[1].thermal:
        reasons.append(
            estimate("mixed-pair-thermal", "Unlike metals: reckoned with the mean of their heat properties.")
        )
    if section.reckoned_mm > THICK_FROM_MM:
        reasons.append(
            estimate(
                "current-thick", "Thicker than {t} the current grows slower than the sheet.", t=length(THICK_FROM_MM)
            )
        )
    if section.unlike:
        reasons.append(practice(
            "Thick to thin: reckoned by {t}. Two thirds of the arc on the thick, torch 60–70° to the thin sheet, start and stop on the thick.",
            t=length(section.reckoned_mm)))  # fmt: skip
    position = so_far.joint.position
    if position.key != "flat":
        reasons.append(practice("{name}: {note}", name=position.name.capitalize(), note=position.note))
    return reasons


def _judge_pin(pinned: float, own: float) -> list[Caution]:
    share = pinned / own
    if share > 1.35:
        return [
            caution(
                "current-off",
                "current",
                "{p} A is {n} times the plan's {o} A: the pool runs away and blows through. Come down or go much faster.",
                p=f"{pinned:.0f}",
                n=f"{share:.1f}",
                o=f"{own:.0f}",
            )
        ]
    if share < 0.7:
        return [
            caution(
                "current-off",
                "current",
                "{p} A is far under the plan's {o} A: the edges do not join. Come up or go slower.",
                p=f"{pinned:.0f}",
                o=f"{own:.0f}",
            )
        ]
    return []


def _third_arm(so_far: SoFar, bench: float, flow: float) -> list[Caution]:
    """The bench rule knows two members; heat flow counts the third arm."""
    if len(so_far.joint.members) < 3:
        return []
    words = "The bench rule does not know the third member, which takes heat too: heat flow asks for {f} A where it gives {b}. Start there and come up on a coupon."
    return [note("third-arm", "current", words, f=f"{flow:.0f}", b=f"{bench:.0f}")]


def _thickness_cautions(so_far: SoFar) -> list[Caution]:
    section, found = so_far.section, []
    if not 0.5 <= section.thin_mm <= 3.2:
        found.append(
            caution(
                "out-of-range",
                "current",
                "{t} is outside the thin gauge of {a} to {b} these rules are made for: prove it on scrap before you trust it.",
                t=length(section.thin_mm),
                a=length(0.5),
                b=length(3.2),
            )
        )
    elif section.thin_mm > 3.0 and so_far.joint.kind.key in ("butt", "tube-butt"):
        found.append(
            caution(
                "out-of-range",
                "current",
                "Above {t} a butt wants a bevel and passes: this single run does not reach through.",
                t=length(3.0),
            )
        )
    if section.ratio > 4:
        lip = ", or turn a lip on the flange as thick as the tube" if so_far.joint.kind.key == "tube-plate" else ""
        found.append(
            caution(
                "thick-to-thin",
                "current",
                "More than 4 to 1 in thickness: clamp copper on the thin side{lip}.",
                lip=lip,
            )
        )
    return found
