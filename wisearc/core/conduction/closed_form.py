"""The closed form of a field: the same seam without latent heat and with constant properties."""

from __future__ import annotations

from msgspec.structs import replace

from ..physics.arc_history import ArcHistory, Boundaries, find_start_s, list_stretches
from ..physics.heat import GLOW_C
from ..physics.heat_field import COOLED_FACES_W_MM2K, face_loss_1_s, wall_distance_mm
from .limits import RESTART_AFTER_S
from .problem import Problem

# The earlier part of a seam that still warms a restart, and the longest wait, mm and s.
_WARMS_MM, _MAX_WAIT_S = 100.0, 10.0


def _build_boundaries(problem: Problem) -> Boundaries:
    """Return the bars, the free edges beside a seam, and the losses."""
    sheet, wall = problem.sheet, None
    bars = [strip.bar_from_mm for strip in problem.strips if strip.bar_from_mm is not None]
    if bars and problem.contact_w_mm2k:
        wall = wall_distance_mm(min(bars), sheet.k, sheet.h_mm, problem.contact_w_mm2k)
    thickness = min(strip.thickness_mm for strip in problem.strips)
    loss = face_loss_1_s(sheet.rho_c, thickness, COOLED_FACES_W_MM2K)
    edge = min(strip.width_mm for strip in problem.strips)
    return Boundaries(wall_mm=wall, loss_1_s=loss, edge_mm=edge)


def estimate_restart(problem: Problem) -> float | None:
    """Return the wait at a restart, as a fraction of the wait on cold sheet; None with a pulse.

    The restart follows `RESTART_AFTER_S` after the arc, in the middle of a seam.

    Args:
        problem: The seam.

    References:
        Estimate, as for `ArcHistory`.
    """
    arc = problem.arc
    if not arc.train.is_steady or arc.max_start_s <= 0:
        return None
    amps, boundaries = arc.peak_a * arc.train.mean, _build_boundaries(problem)
    length = min(_WARMS_MM, problem.length_mm)
    passed = RESTART_AFTER_S + arc.taper_s + length / arc.travel_mm_s
    before = list_stretches(
        arc.train, arc.peak_a, arc.travel_mm_s, length, arc.taper_s, 0.0, -length, -passed
    )
    cold, warm = (
        find_start_s(problem.sheet, amps, arc.start_width_mm, _MAX_WAIT_S, earlier, boundaries)
        for earlier in ((), before)
    )
    return warm / cold


def calculate_share_of_return(problem: Problem) -> float:
    """Return how much longer the red heat lasts because a seam ends on its own heat, as a factor.

    Args:
        problem: A seam that closes on itself.

    References:
        Estimate, as for `ArcHistory`.
    """
    arc, boundaries = problem.arc, _build_boundaries(problem)
    seam = list_stretches(arc.train, arc.peak_a, arc.travel_mm_s, problem.length_mm, arc.taper_s)
    once, endless = (
        ArcHistory(problem.sheet, seam, of).find_glow_s(GLOW_C)
        for of in (replace(boundaries, round_mm=problem.length_mm), boundaries)
    )
    return once / endless
