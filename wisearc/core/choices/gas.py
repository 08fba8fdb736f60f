"""How much argon: flow by the cup's jet, pre- and post-flow, what the run uses."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..gas import (
    DRAUGHT_M_S,
    FLOOR_L_MIN,
    TURBULENT_STOP,
    TURBULENT_WARN,
    consumption_l,
    exit_speed_m_s,
    flow_l_min,
    reynolds,
)
from ..quantities import L_MIN_PER_CFH, flow
from ..reasons import Caution, Choice, Other, Reason, caution, estimate, note, practice, say, stop
from .back import Back
from .pulse import Pulse
from .rhythm import Rhythm
from .so_far import SoFar
from .tacks import Tacks
from .torch import Torch
from .warmth import Warmth

REYNOLDS = {
    ("gas-lens", "full"): 1200.0,
    ("plain", "full"): 1350.0,
    ("gas-lens", "frugal"): 800.0,
    ("plain", "frugal"): 1250.0,
}
PLAIN_WARN = 1800.0
POSTFLOW_MOST_S = 15.0
GLOW_MARGIN_S = 2.0


@dataclass(frozen=True, kw_only=True)
class Gas(Choice):
    """Flow L/min, jet's Reynolds number and exit speed m/s, pre- and post-flow s, argon L torch and back."""

    gas: str
    flow_l_min: float
    reynolds: float
    exit_speed_m_s: float
    preflow_s: float
    postflow_s: float
    postflow_glow_s: float
    torch_l: float
    back_l: float
    starts: int

    @property
    def argon_l(self) -> float:
        return self.torch_l + self.back_l

    @property
    def flow_cfh(self) -> float:
        return self.flow_l_min / L_MIN_PER_CFH


def choose(so_far: SoFar) -> Gas:
    """Choose flow and timings. Flow: estimate by Reynolds number; timings: common practice."""
    joint, torch, warmth = so_far.joint, so_far.get(Torch), so_far.get(Warmth)
    q, why = _flow(so_far, torch)
    pinned_pre, pinned_post = joint.pin("preflow_s"), joint.pin("postflow_s")
    pre = (1.0 if torch.cup >= 10 else 0.5) if pinned_pre is None else pinned_pre
    rule = postflow_rule_s(so_far.get(Pulse).average_a, so_far.section.stainless_sides > 0)
    post = rule if pinned_post is None else pinned_post
    glow = warmth.glow_after_stop_s + GLOW_MARGIN_S
    starts = 1 + max(0, so_far.get(Back).bar_runs - 1) + so_far.get(Tacks).count
    return Gas(
        gas="argon", flow_l_min=q, reynolds=reynolds(q, torch.bore_mm), exit_speed_m_s=exit_speed_m_s(q, torch.bore_mm),
        preflow_s=pre, postflow_s=post, postflow_glow_s=glow,
        torch_l=consumption_l(q, so_far.get(Rhythm).arc_time_s, starts, pre, post), back_l=_back_l(so_far), starts=starts,
        why=(why, *_timing_reasons(so_far, post, glow)), others=tuple(_others(so_far, torch, post, glow)),
        cautions=(*_flow_cautions(torch, q), *_postflow_cautions(post, glow, rule)),
    )  # fmt: skip


def postflow_rule_s(average_a: float, stainless: bool) -> float:
    """Post-flow, s: 1 s per 10 A of mean current (to the next half second), 5 s least on steel, 6 on stainless, 15 most. Common practice.

    >>> postflow_rule_s(40, True), postflow_rule_s(40, False), postflow_rule_s(400, True)
    (6.0, 5.0, 15.0)
    """
    rule = math.ceil(average_a / 10 * 2 - 1e-9) / 2
    return min(POSTFLOW_MOST_S, max(6.0 if stainless else 5.0, rule))


def _flow(so_far: SoFar, torch: Torch) -> tuple[float, Reason]:
    pinned = so_far.joint.pin("flow_l_min")
    if pinned:
        return pinned, practice("Flow set by hand.")
    school = so_far.joint.gas_school
    q = max(FLOOR_L_MIN, flow_l_min(REYNOLDS[torch.front_end, school], torch.bore_mm))
    q = max(q, flow_l_min(1.0, torch.bore_mm) * DRAUGHT_M_S * torch.bore_mm * 1e-3 / 1.34e-5)
    re = reynolds(q, torch.bore_mm)
    sentence = say(
        "A smooth jet from a no. {c}: Reynolds number {re}{f}.",
        c=torch.cup,
        re=f"{re:.0f}",
        f=", frugal, in still air" if school == "frugal" else "",
    )
    worked = say("π × bore × 1.34e-5 m²/s × {re} / 4 = {q}", re=f"{re:.0f}", q=flow(q))
    return q, Reason(sentence, "jet-reynolds", "estimate", "Q = π D ν Re / 4", worked)


def _timing_reasons(so_far: SoFar, post: float, glow: float) -> list[Reason]:
    amps = so_far.get(Pulse).average_a
    return [
        Reason(
            say("Post-flow {p} s: a second for each 10 A of mean current, within {low} to 15 s.", p=f"{post:g}" if post == int(post) else f"{post:.1f}", low=6 if so_far.section.stainless_sides else 5),
            "common-practice", "common-practice", "post-flow = mean A / 10",
            say("{a} / 10 = {s} s", a=f"{amps:.0f}", s=f"{amps / 10:.1f}"),
        ),
        estimate("glow-after-stop", "The glow is gone {g} s after the arc stops; with 2 s more, {t} s. Torch and rod tip stay put till the gas stops.", g=f"{glow - GLOW_MARGIN_S:.1f}", t=f"{glow:.1f}"),
        practice("First start of the day: 5 s by hand to clear the hose."),
    ]  # fmt: skip


def _back_l(so_far: SoFar) -> float:
    purge = so_far.get(Back).purge
    if purge is None:
        return 0.0
    return purge.before_l_min * purge.before_s / 60 + purge.weld_l_min * so_far.get(Rhythm).arc_time_s / 60


def _others(so_far: SoFar, torch: Torch, post: float, glow: float) -> list[Other]:
    school = so_far.joint.gas_school
    other = "frugal" if school == "full" else "full"
    q = max(FLOOR_L_MIN, flow_l_min(REYNOLDS[torch.front_end, other], torch.bore_mm))
    words = (
        "Frugal, in still air: big cups run well on it; a draught spoils it."
        if other == "frugal"
        else "Full: holds in the usual draught of a shop."
    )
    found = [Other(say("{q}", q=flow(q)), say(words), "jet-reynolds", "estimate", {"gas_school": other}, school="gas")]
    if glow > post:
        longer = round(glow + 0.5)
        found.append(
            Other(
                say("post-flow {s} s", s=longer),
                say("As long as the heat model sees glow, and 2 s more."),
                "glow-after-stop",
                "estimate",
                {"pins.postflow_s": longer},
            )
        )
    return found


def _flow_cautions(torch: Torch, q: float) -> list[Caution]:
    found: list[Caution] = []
    re, v = reynolds(q, torch.bore_mm), exit_speed_m_s(q, torch.bore_mm)
    if re > TURBULENT_STOP:
        found.append(
            stop(
                "gas-turbulent",
                "gas",
                "{q} through a no. {c} tears (Reynolds {re}): it draws air in. Turn down, or a bigger cup.",
                q=flow(q),
                c=torch.cup,
                re=f"{re:.0f}",
            )
        )
    elif re > (TURBULENT_WARN if torch.front_end == "gas-lens" else PLAIN_WARN):
        found.append(
            caution(
                "gas-turbulent",
                "gas",
                "{q} through a no. {c} wobbles (Reynolds {re}): the pool swims. Turn down, or a bigger cup.",
                q=flow(q),
                c=torch.cup,
                re=f"{re:.0f}",
            )
        )
    if v < DRAUGHT_M_S - 1e-9:
        found.append(
            caution(
                "gas-too-slow",
                "gas",
                "{q} leaves a no. {c} at {v} m/s; under 0.45 it drifts off in a draught. Turn up, or a smaller cup.",
                q=flow(q),
                c=torch.cup,
                v=f"{v:.2f}",
            )
        )
    elif q < FLOOR_L_MIN - 1e-9:
        found.append(
            caution(
                "gas-too-slow",
                "gas",
                "{q} is under the floor of {f} where flow meters and hoses can be trusted. Turn up.",
                q=flow(q),
                f=flow(FLOOR_L_MIN),
            )
        )
    return found


def _postflow_cautions(post: float, glow: float, rule: float) -> list[Caution]:
    found: list[Caution] = []
    if post < rule - 0.01:
        found.append(
            caution(
                "postflow-short",
                "gas",
                "{p} s after the arc is under the {r} s of the rule: metal and tungsten go grey while hot.",
                p=f"{post:g}",
                r=f"{rule:g}",
            )
        )
    elif glow > post + 0.5:
        found.append(
            note(
                "postflow-short",
                "gas",
                "The heat model sees glow past the post-flow: {t} s covers it.",
                t=f"{round(glow + 0.5)}",
            )
        )
    return found
