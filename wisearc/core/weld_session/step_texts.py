"""The texts and figures of the steps of a run. Common practice throughout."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from ..plan.plan import Plan
from ..plan.preparation.stops import describe_stops
from ..plan.preparation.weld_spans import WeldSpan
from ..quantities import Quantity, length
from ..reasons import Sentence
from .pacer import FOLLOWED_PPS


class StepFigure(Struct, frozen=True):
    """A figure in use in a step: label, value, and its place in a run ("set.current_a"), or ""."""

    label: str
    value: Any
    run: str = ""


def show_torch(plan: Plan) -> tuple[StepFigure, ...]:
    """Return the setting of the torch.

    Args:
        plan: The plan.
    """
    return (StepFigure("Setting", Quantity(plan.slopes.dial_a, "current"), "set.current_a"),)


def show_gas(plan: Plan) -> tuple[StepFigure, ...]:
    """Return the gas flow and the pre-flow.

    Args:
        plan: The plan.
    """
    return (
        StepFigure("Argon", Quantity(plan.gas.flow_l_min, "flow"), "set.flow_l_min"),
        StepFigure("Pre-flow", Quantity(plan.gas.preflow_s, "seconds")),
    )


def show_pulse(plan: Plan) -> tuple[StepFigure, ...]:
    """Return the pulse.

    Args:
        plan: The plan.
    """
    p = plan.pulse
    if not p.pulsed:
        return () if p.rate_pps is None else (StepFigure("Dabs", Quantity(p.rate_pps, "rate")),)
    return (
        StepFigure("Pulse", Quantity(p.rate_pps or 0.0, "rate"), "set.rate_pps"),
        StepFigure("Peak time", Quantity(p.on_pct or 0.0, "percent"), "set.on_pct"),
        StepFigure(
            "Background", Quantity(p.background_pct or 0.0, "percent"), "set.background_pct"
        ),
    )


def show_slope(plan: Plan) -> tuple[StepFigure, ...]:
    """Return the final current of the slope, if the machine has one.

    Args:
        plan: The plan.
    """
    return (
        ()
        if plan.slopes.finish_a is None
        else (StepFigure("Final", Quantity(plan.slopes.finish_a, "current")),)
    )


def format_strike(plan: Plan) -> Sentence:
    """Return how to strike the arc.

    Args:
        plan: The plan.
    """
    if plan.travel.arc_length_mm:
        return Sentence(
            "Arc length {a}, push the torch, rod tip in the gas.",
            a=length(plan.travel.arc_length_mm),
        )
    return Sentence("Short arc, push the torch, rod tip in the gas.")


def format_seam(plan: Plan, span: WeldSpan) -> Sentence:
    """Return how to weld a span of the seam, with its pauses.

    Args:
        plan: The plan.
        span: The span.
    """
    how = format_motion(plan)
    if not span.stops:
        return how
    return Sentence("{how} Pause and prop again {at}.", how=how, at=describe_stops(span.stops))


def format_motion(plan: Plan) -> Sentence:
    """Return how to move along the seam.

    Args:
        plan: The plan.
    """
    if (
        plan.pulse.pulsed
        and plan.pulse.rate_pps is not None
        and plan.pulse.rate_pps <= FOLLOWED_PPS
    ):
        return Sentence("Step to the leading edge before each peak.")
    if plan.filler.rod:
        return Sentence(
            "Rod to the front of the pool. A small step ahead, then back onto the thick side."
        )
    return Sentence("Move steadily. Watch the edge of the bead blend.")


def format_taper(plan: Plan) -> Sentence:
    """Return how to end the arc.

    Args:
        plan: The plan.
    """
    return (
        Sentence("Taper slowly to zero with a dab in the crater. A sudden stop cracks it.")
        if plan.filler.rod
        else Sentence("Taper slowly to zero, back onto the bead. A sudden stop cracks the crater.")
    )
