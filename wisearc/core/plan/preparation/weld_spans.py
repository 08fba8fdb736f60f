"""The parts of a seam that are welded one after the other.

Bar positions, the two halves of a fixed tube, or a last part that closes a purged seam. Common
practice.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from ... import catalogue
from ...quantities import length
from ...reasons import Sentence
from ..plan import Plan
from .stops import CLOCK_HOURS, PausePoint, describe_stops

_HALVES = (
    "Weld the first half upward: from just past 6 o'clock over 3 o'clock to just past 12.",
    "Weld the second half upward: from 6 o'clock over 9 o'clock onto the end of the first half.",
)


class WeldSpan(Struct, frozen=True):
    """A part of the seam: start and end, mm, its instruction and its pauses."""

    start_mm: float
    end_mm: float
    text: Sentence
    stops: tuple[PausePoint, ...] = ()


def list_weld_spans(plan: Plan, ends_mm: Sequence[tuple[float, float]]) -> list[WeldSpan]:
    """Return the parts of a seam in welding order.

    Args:
        plan: The plan.
        ends_mm: Start and end of each bar position, mm, or none without bars.
    """
    seam = plan.section.length_mm
    if ends_mm:
        return [
            WeldSpan(start, end, _weld_from_to(start, end), _list_stops(plan, start, end))
            for start, end in ends_mm
        ]
    if is_fixed_tube(plan):
        middle = len(plan.technique.stops) // 2
        stops = plan.technique.stops[:middle], plan.technique.stops[middle:]
        return [
            WeldSpan(i * seam / 2, (i + 1) * seam / 2, Sentence(text), stops[i])
            for i, text in enumerate(_HALVES)
        ]
    text = Sentence("Weld the seam, {l}.", l=length(seam))
    if not steps_purge(plan) or not plan.technique.stops:
        return [WeldSpan(0.0, seam, text, plan.technique.stops)]
    last = plan.technique.stops[-1]
    at = place_mm(plan, last)
    first = Sentence("Weld to the last pause, {at}.", at=describe_stops((last,)))
    return [
        WeldSpan(0.0, at, first, plan.technique.stops[:-1]),
        WeldSpan(at, seam, Sentence("Close the last part of the seam, {l}.", l=length(seam - at))),
    ]


def steps_purge(plan: Plan) -> bool:
    """Return whether the plan has the steps of a purge; a plan of an older version has not."""
    return plan.back.purged and plan.back.purge is not None and plan.back.purge.hose_l is not None


def is_fixed_tube(plan: Plan) -> bool:
    """Return whether the plan welds a tube that does not turn, all round."""
    position = catalogue.load_positions().get(str(plan.joint.get("position")))
    fixed = position is not None and position.has("fixed_tube")
    return fixed and plan.section.all_round and bool(plan.technique.stops)


def place_mm(plan: Plan, stop: PausePoint) -> float:
    """Return the distance of a pause from the start of the seam at the bottom, mm.

    Args:
        plan: The plan.
        stop: The pause.
    """
    if stop.at_mm is not None:
        return stop.at_mm
    turn = ((stop.at_clock or 0.0) - CLOCK_HOURS / 2) % CLOCK_HOURS / CLOCK_HOURS
    return turn * plan.section.length_mm


def _list_stops(plan: Plan, start: float, end: float) -> tuple[PausePoint, ...]:
    return tuple(s for s in plan.technique.stops if start < place_mm(plan, s) < end - 1e-6)


def _weld_from_to(start: float, end: float) -> Sentence:
    return Sentence("Weld {a} to {b}.", a=length(start), b=length(end))
