"""Argon: flow by the jet from the cup, pre-flow and post-flow, consumption."""

import math
from typing import Annotated, ClassVar

from ...joint.joint import Joint
from ...joint.section import Section
from ...physics.gas import (
    DRAUGHT_M_S,
    FLOOR_L_MIN,
    TURBULENT_STOP,
    TURBULENT_WARN,
    calculate_reynolds,
    consumption_l,
    exit_speed_m_s,
    flow_at_speed_l_min,
    flow_l_min,
)
from ...quantities import L_MIN_PER_CFH, Quantity, amps_without_unit, flow
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
    WithFix,
    WithFormula,
)
from ...schema.figures import Band, Figure, Override
from ...shop.bench import Bench
from ..arc.heat import HeatResult
from ..arc.pulse import Pulse
from ..arc.travel import Travel
from ..preparation.tacks import Tacks
from ..torch.torch import Torch
from .back import Back

REYNOLDS = {
    ("gas-lens", "full"): 1200.0,
    ("plain", "full"): 1350.0,
    ("gas-lens", "frugal"): 800.0,
    ("plain", "frugal"): 1250.0,
}
PLAIN_WARN = 1800.0
MAX_POSTFLOW_S, POSTFLOW_STAINLESS_S, POSTFLOW_STEEL_S = 15.0, 6.0, 5.0
A_PER_POSTFLOW_S = 10.0
# What a cautious welder adds, and the share of the default below which the end turns grey.
CAUTIOUS_S, MIN_POSTFLOW_SHARE = 2.0, 0.7
POSTFLOW_LONG_S = 20.0
PREFLOW_S, PREFLOW_WIDE_S, WIDE_CUP = 0.5, 1.0, 10


class Gas(Choice, frozen=True, kw_only=True):
    """The gas.

    Flow L/min, Reynolds number and exit speed m/s of the jet, pre-flow and post-flow s, argon for
    torch and back L, starts.
    """

    part: ClassVar[str] = "gas"
    answer: ClassVar[str] = "gas"
    label: ClassVar[str] = "Gas"
    gas: Annotated[str, Figure("Gas")]
    flow_l_min: Annotated[
        float,
        Figure(
            "Argon flow",
            "flow",
            2,
            positive=True,
            compared="Argon flow",
            pin=Override("flow_l_min", 1, 40, label="Flow"),
            band=Band("flow_l_min", "Argon", 0.9, 1.1),
        ),
    ]
    flow_cfh: Annotated[float, Figure("Argon flow, CFH", "plain", 1)]
    reynolds: Annotated[float, Figure("Reynolds number", "count", 0)]
    exit_speed_m_s: Annotated[float, Figure("Exit speed", "plain", 2)]
    preflow_s: Annotated[float, Figure("Pre-flow", "seconds", pin=Override("preflow_s", 0, 30))]
    postflow_s: Annotated[
        float,
        Figure(
            "Post-flow",
            "seconds",
            pin=Override("postflow_s", 0, 60),
            band=Band("postflow_s", "Post-flow", low=1.0),
        ),
    ]
    postflow_glow_s: Annotated[float, Figure("Post-flow by red heat", "seconds", 1)]
    argon_l: Annotated[float, Figure("Argon used", "volume", 1, compared="Argon used")]
    torch_l: Annotated[float, Figure("Argon at the torch", "volume", 1)]
    back_l: Annotated[float, Figure("Backing argon", "volume", 1)]
    starts: Annotated[int, Figure("Number of starts", "count")]

    def get_templates(self) -> tuple[str, str]:
        """Return the templates of the answer and of its detail."""
        return "{flow_l_min} {gas}", "pre-flow {preflow_s}, post-flow {postflow_s}"


def choose_gas(
    joint: Joint,
    section: Section,
    bench: Bench,
    back: Back,
    travel: Travel,
    pulse: Pulse,
    heat: HeatResult,
    torch: Torch,
    tacks: Tacks,
) -> Gas:
    """Choose flow and times.

    Flow: estimate by Reynolds number. Times: common practice.

    Args:
        joint: The joint.
        section: Its section.
        bench: The bench.
        back: The root cover.
        travel: The travel speed.
        pulse: The pulse.
        heat: The heat.
        torch: The front end.
        tacks: The tacks.
    """
    q, why = _choose_flow(joint, torch)
    pre = joint.pins.get("preflow_s", PREFLOW_WIDE_S if torch.cup >= WIDE_CUP else PREFLOW_S)
    glow = heat.glow_after_stop_s
    shortest_s = POSTFLOW_STAINLESS_S if section.stainless_sides else POSTFLOW_STEEL_S
    postflow_s = max(shortest_s, round_up_to_half_s(round(glow, 1)))
    # The card shows what the machine can do.
    post = joint.pins.get("postflow_s", min(postflow_s, bench.machine.postflow_most_s))
    starts = 1 + max(0, back.bar_lengths - 1) + tacks.count
    at_torch, behind = consumption_l(q, travel.arc_time_s, starts, pre, post), _back_l(back, travel)
    return Gas(
        gas="argon",
        flow_l_min=q,
        flow_cfh=q / L_MIN_PER_CFH,
        reynolds=calculate_reynolds(q, torch.bore_mm),
        exit_speed_m_s=exit_speed_m_s(q, torch.bore_mm),
        preflow_s=pre,
        postflow_s=post,
        postflow_glow_s=glow,
        argon_l=at_torch + behind,
        torch_l=at_torch,
        back_l=behind,
        starts=starts,
        why=(why, *_explain_timing(joint, pulse, post, shortest_s, glow, section.ends_at_edge)),
        others=(*_list_alternatives(joint, torch), _build_cautious_alternative(postflow_s)),
        cautions=(
            *_check_flow(joint, torch, q),
            *_check_postflow(joint, post, postflow_s),
            *_check_timers(bench, pre, joint.pins.get("postflow_s", postflow_s)),
        ),
    )


def get_turbulence_limit(front_end: str) -> float:
    """Return the Reynolds number above which the gas disturbs the weld pool.

    Args:
        front_end: "gas-lens" or "plain".

    References:
        Estimate from common practice.
    """
    return TURBULENT_WARN if front_end == "gas-lens" else PLAIN_WARN


def postflow_rule_s(average_a: float) -> float:
    """Return the post-flow by the rule of thumb, s: 1 s per 10 A of mean current, at most 15.

    Args:
        average_a: Mean current, A.

    References:
        Common practice, for comparison.

    >>> postflow_rule_s(40), postflow_rule_s(400)
    (4.0, 15.0)
    """
    return min(MAX_POSTFLOW_S, round_up_to_half_s(average_a / A_PER_POSTFLOW_S))


def round_up_to_half_s(seconds: float) -> float:
    """Round a time up to a multiple of 0.5 s.

    >>> round_up_to_half_s(6.0), round_up_to_half_s(6.01)
    (6.0, 6.5)
    """
    return math.ceil(seconds * 2 - 1e-9) / 2


def _choose_flow(joint: Joint, torch: Torch) -> tuple[float, Reason]:
    if "flow_l_min" in joint.pins:
        return joint.pins.get("flow_l_min", 0.0), Practice("Flow set manually.")
    q = _own_flow_l_min(torch, joint.gas_school)
    re = f"{calculate_reynolds(q, torch.bore_mm):.0f}"
    frugal = ", low flow for still air" if joint.gas_school == "frugal" else ""
    reason = Estimate(
        "jet-reynolds",
        "Smooth jet from a no. {c} cup: Reynolds number {re}{f}.",
        c=torch.cup,
        re=re,
        f=frugal,
    )
    return q, WithFormula(
        reason, "Q = π D ν Re / 4", "π × bore × 1.34e-5 m²/s × {re} / 4 = {q}", re=re, q=flow(q)
    )


def _own_flow_l_min(torch: Torch, approach: str) -> float:
    """Return the flow of an approach, L/min.

    A smooth jet, at least the minimum, and fast enough against draughts.
    """
    by_jet = flow_l_min(REYNOLDS[torch.front_end, approach], torch.bore_mm)
    return max(FLOOR_L_MIN, by_jet, flow_at_speed_l_min(DRAUGHT_M_S, torch.bore_mm))


def _explain_timing(
    joint: Joint, pulse: Pulse, post: float, shortest_s: float, glow: float, at_edge: bool
) -> list[Reason]:
    amps = pulse.average_a
    text = "For comparison, the rule of thumb: one second per 10 A of mean current, {r} s."
    by_rule = WithFormula(
        Practice(text, r=Quantity(postflow_rule_s(amps), "number")),
        "post-flow = mean A / 10, at most 15 s",
        "{a} / 10 = {s} s",
        a=amps_without_unit(amps),
        s=f"{amps / A_PER_POSTFLOW_S:.1f}",
    )
    glowing = (
        "The red heat is gone {g} s after the arc stops, with argon on the front face. Hold the "
        "torch still over the end of the bead, and any rod tip under the gas, until it stops."
    )
    if at_edge:
        glowing += " The seam ends at an edge, where the red heat lasts longer."
    by_glow = Estimate("glow-after-stop", glowing, g=f"{glow:.1f}")
    clear = Practice(
        "At the first start of the day, run the gas manually for 5 s to clear the hose."
    )
    text = (
        "Post-flow of {p} s set manually."
        if "postflow_s" in joint.pins
        else "Post-flow {p} s: until the red heat is gone, at least {low} s."
    )
    figures = {"p": Quantity(post, "number"), "low": Quantity(shortest_s, "plain")}
    return [Practice(text, **figures), by_glow, by_rule, clear]


def _back_l(back: Back, travel: Travel) -> float:
    if back.purge is None:
        return 0.0
    return (
        back.purge.preflow_l_min * back.purge.before_s / 60
        + back.purge.weld_flow_l_min * travel.arc_time_s / 60
    )


def _list_alternatives(joint: Joint, torch: Torch) -> list[Alternative]:
    other, text = (
        (
            "frugal",
            (
                "Low flow, for still air. Large cups work well with it, but a draught spoils "
                "the shielding."
            ),
        )
        if joint.gas_school == "full"
        else ("full", "Full flow, for the usual draught of a shop.")
    )
    q = _own_flow_l_min(torch, other)
    return [
        Alternative(
            Sentence("{q}", q=flow(q)),
            Sentence(text),
            {"gas_school": other},
            "gas",
            "jet-reynolds",
            "estimate",
        )
    ]


def _build_cautious_alternative(postflow_s: float) -> Alternative:
    """Return the alternative of a longer post-flow."""
    longer = postflow_s + CAUTIOUS_S
    text = "{more} s more than the red heat lasts. The tungsten stays brighter. Uses more argon."
    return Alternative(
        Sentence("post-flow {p} s", p=Quantity(longer, "number")),
        Sentence(text, more=Quantity(CAUTIOUS_S, "plain")),
        {"pins.postflow_s": longer},
    )


def _check_flow(joint: Joint, torch: Torch, q: float) -> list[Caution]:
    re, v = calculate_reynolds(q, torch.bore_mm), exit_speed_m_s(q, torch.bore_mm)
    figures = {
        "q": flow(q),
        "c": torch.cup,
        "re": f"{re:.0f}",
        "v": f"{v:.2f}",
        "f": flow(FLOOR_L_MIN),
    }
    cautions: list[Caution] = []
    if re > TURBULENT_STOP:
        text = (
            "Do not weld: {q} is too much gas for a no. {c} cup (Reynolds number {re}). "
            "Turbulence will draw in air. Reduce the flow or fit a larger cup."
        )
        cautions.append(Stop("gas-turbulent", "gas", text, **figures))
    elif re > get_turbulence_limit(torch.front_end):
        text = (
            "{q} is much gas for a no. {c} cup (Reynolds number {re}). Turbulence "
            "disturbs the pool. Reduce the flow or fit a larger cup."
        )
        cautions.append(Care("gas-turbulent", "gas", text, **figures))
    if v < DRAUGHT_M_S - 1e-9:
        text = (
            "{q} leaves a no. {c} cup at {v} m/s. Below 0.45 m/s a draught blows it "
            "away. Increase the flow or fit a smaller cup."
        )
        cautions.append(Care("gas-too-slow", "gas", text, **figures))
    elif q < FLOOR_L_MIN - 1e-9:
        text = (
            "{q} is below {f}, the minimum for reliable flowmeters and hoses. Shielding "
            "may fail. Increase the flow."
        )
        cautions.append(Care("gas-too-slow", "gas", text, **figures))
    keys = {f"pins.{key}": None for key in ("flow_l_min", "cup") if key in joint.pins}
    if "flow_l_min" in keys:
        return [
            WithFix(item, "Use the calculated flow", **{"pins.flow_l_min": None})
            for item in cautions
        ]
    return [WithFix(item, "Use the recommended cup", **keys) for item in cautions]


def _check_postflow(joint: Joint, post: float, recommended_s: float) -> list[Caution]:
    if "postflow_s" in joint.pins and post < MIN_POSTFLOW_SHARE * recommended_s - 0.01:
        text = (
            "A post-flow of {p} s is much shorter than the {r} s that the red heat needs. Metal "
            "and tungsten turn grey. Increase the post-flow."
        )
        item = Care("postflow-short", "gas", text, p=f"{post:g}", r=f"{recommended_s:g}")
        return [WithFix(item, "Use the calculated post-flow", **{"pins.postflow_s": None})]
    if recommended_s > POSTFLOW_LONG_S:
        text = (
            "A post-flow of {t} s is long. It uses much argon. Bars, or a run-off tab at "
            "the end, remove the heat sooner."
        )
        return [Note("postflow-long", "gas", text, t=f"{recommended_s:g}")]
    return []


def _check_timers(bench: Bench, pre: float, post: float) -> list[Caution]:
    """Return the cautions for times beyond the gas timers of the machine."""
    cautions: list[Caution] = []
    machine = bench.machine
    if post > machine.postflow_most_s:
        text = (
            "The machine ends its post-flow after {m} s, but {p} s are needed. The end turns grey. "
            "Keep the gas on manually for the rest, or remove heat with bars."
        )
        cautions.append(
            Care("timer-short", "gas", text, m=f"{machine.postflow_most_s:g}", p=f"{post:g}")
        )
    if pre > machine.preflow_most_s:
        text = (
            "The machine maximum for pre-flow is {m} s, but {p} s are needed. Air "
            "remains at the start. Run the gas manually before you strike."
        )
        cautions.append(
            Care("timer-short", "gas", text, m=f"{machine.preflow_most_s:g}", p=f"{pre:g}")
        )
    return cautions
