"""What a field answers: pool along the seam, tints, where it burns through, when it is cool."""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ..physics.distortion import tendon_kn as calculate_tendon_kn
from ..physics.heat import AMBIENT_C, GLOW_C, HOT_BAND_C, SENSITISING_C
from .closed_form import estimate_restart
from .grid import find_node, measure_widths_mm
from .limits import MAX_POOL_SHARE, MIN_FUSED_SHARE
from .metal import Floats
from .outcome import MIDDLE_SHARE, Outcome
from .tint import find_tint

# The steady part of a seam around its middle, as shares of its length, and the columns that are
# averaged there, on each side.
_STEADY, _AVERAGED = (MIDDLE_SHARE - 0.175, MIDDLE_SHARE + 0.175), 4
# The spacing of the figures along the seam, mm.
ALONG_STEP_MM = 2.0


class ProbeRecord(Struct, frozen=True):
    """A probe: its place mm, highest temperature °C, and time above 600 °C, s."""

    x_mm: float
    y_mm: float
    max_c: float
    over_600_s: float


class Findings(Struct, frozen=True):
    """The answers of a field.

    Pool at the end of the peak and between peaks mm, width along the seam as (place, width) mm,
    width of sheet above 450 °C in the middle of the seam mm, red heat after the stop s, time of the
    seam above 600 °C s, tints of the faces in the middle and at their worst, places where it burns
    through or does not fuse as (from, to) mm, mean temperature of the part at the end °C, melted
    width in the middle, over a tack there (None without its metal) and at the end mm, wait to the
    interpass limit s (None: not within the calculated time), wait for the pool at a restart s (None
    with a pulse), shrinkage force kN, heat into the bars as a share, and the probes.
    """

    width_peak_mm: float
    length_peak_mm: float
    width_between_mm: float
    width_along_mm: tuple[tuple[float, float], ...]
    hot_band_mm: float
    glow_after_stop_s: float
    over_600_s: float
    tint_front: str
    tint_back: str
    worst_front: str
    burnt_mm: tuple[tuple[float, float], ...]
    unfused_mm: tuple[tuple[float, float], ...]
    mean_end_c: float
    middle_width_mm: float
    tack_width_mm: float | None
    end_width_mm: float
    wait_s: float | None
    restart_s: float | None
    tendon_kn: float
    bar_share: float
    probes: tuple[ProbeRecord, ...]

    @property
    def freezes_between(self) -> bool:
        """Return whether the pool freezes between peaks."""
        return self.width_between_mm <= 0

    @property
    def burns_through(self) -> bool:
        """Return whether the seam burns through somewhere."""
        return bool(self.burnt_mm)

    @property
    def fuses(self) -> bool:
        """Return whether the seam fuses everywhere."""
        return not self.unfused_mm


def find_answers(outcome: Outcome, target_mm: float) -> Findings:
    """Return the answers of a field.

    Args:
        outcome: The field.
        target_mm: Target pool width, mm.
    """
    problem = outcome.problem
    along, widths = _list_widths(outcome)
    low, high = (share * problem.length_mm for share in _STEADY)
    pools = [p for p in outcome.pools if p.time_s <= outcome.stopped_s + 1e-6]
    inset = problem.inset_mm
    clear = [p for p in pools if not problem.is_on_tack(p.arc_mm + inset, p.length_mm)]
    steady = [p for p in clear or pools if low <= p.arc_mm <= high] or clear or pools
    on_tack = np.array([problem.is_on_tack(float(at)) for at in along], dtype=bool)
    in_middle = (along >= low) & (along <= high)
    middle, tacked = widths[in_middle & ~on_tack], widths[in_middle & on_tack]
    front = _average_middle(outcome, outcome.front_c)
    back = AMBIENT_C
    if not problem.back_covered:
        back = float(_average_middle(outcome, outcome.back_c).max())
    edge = 0.0 if problem.closed else problem.inset_mm + target_mm / 2
    inner = (along >= edge) & (along <= problem.length_mm - edge)
    # A bar stops the sheet from stretching: the heat that it draws counts half. Estimate.
    heat_j_mm = (outcome.input_j - outcome.barred_j / 2) / problem.length_mm
    restart, glow_s = estimate_restart(problem), _find_time_below(outcome, GLOW_C)
    if glow_s is None:
        # Still red hot at the end of the calculation: at least until then.
        glow_s = outcome.end_s - outcome.stopped_s - problem.arc.taper_s
    band = measure_widths_mm(
        outcome.across, problem, _average_middle(outcome, outcome.peak_c)[None], HOT_BAND_C
    )
    return Findings(
        width_peak_mm=max((p.width_mm for p in steady), default=0.0),
        length_peak_mm=max((p.length_mm for p in steady), default=0.0),
        width_between_mm=min((p.width_mm for p in steady), default=0.0),
        width_along_mm=tuple(
            (round(float(x), 1), round(float(w), 2)) for x, w in zip(along, widths, strict=True)
        ),
        hot_band_mm=float(band[0]),
        glow_after_stop_s=glow_s,
        over_600_s=_calculate_time_above(outcome, -1, SENSITISING_C),
        tint_front=find_tint(float(front.max())),
        tint_back=find_tint(back),
        worst_front=find_tint(float(outcome.front_c[outcome.get_seam_rows()].max())),
        burnt_mm=_list_stretches(along, widths > MAX_POOL_SHARE * target_mm),
        unfused_mm=_list_stretches(along, inner & (widths < MIN_FUSED_SHARE * target_mm)),
        mean_end_c=outcome.mean_end_c,
        middle_width_mm=float(middle.mean()) if len(middle) else 0.0,
        tack_width_mm=float(tacked.min()) if len(tacked) and problem.tack_mm2 else None,
        end_width_mm=float(widths[-_AVERAGED:].max()),
        wait_s=_find_time_below(outcome, problem.interpass_c),
        restart_s=None if restart is None else restart * outcome.moving_from_s,
        tendon_kn=calculate_tendon_kn(max(0.0, heat_j_mm)),
        bar_share=outcome.barred_j / max(outcome.input_j, 1e-9),
        probes=tuple(
            ProbeRecord(
                x,
                y,
                float(outcome.history[:, i].max()),
                _calculate_time_above(outcome, i, SENSITISING_C),
            )
            for i, (x, y) in enumerate(problem.probes_mm, start=1)
        ),
    )


def _find_row(outcome: Outcome, x_mm: float) -> int:
    """Return the narrow column at a place along the seam, mm from its start."""
    place = int((outcome.problem.seam_mm + x_mm) / outcome.along.narrow_mm)
    return min(len(outcome.peak_c) - 1, max(0, place))


def _average_middle(outcome: Outcome, record: Floats) -> Floats:
    """Return a record across the seam in its middle, as the mean of a few columns (nodes)."""
    row = _find_row(outcome, MIDDLE_SHARE * outcome.problem.length_mm)
    mean: Floats = record[max(0, row - _AVERAGED) : row + _AVERAGED + 1].mean(axis=0)
    return mean


def _list_widths(outcome: Outcome) -> tuple[Floats, Floats]:
    """Return places along the seam and the melted width there, mm, by ripples or every 2 mm."""
    rows = outcome.peak_c[outcome.get_seam_rows()]
    widths = measure_widths_mm(outcome.across, outcome.problem, rows)
    arc, step = outcome.problem.arc, ALONG_STEP_MM
    if not arc.train.is_steady:
        # Whole ripples, so that their narrow places count everywhere alike.
        pitch = arc.travel_mm_s / arc.train.rate_pps
        step = pitch * math.ceil(ALONG_STEP_MM / pitch)
    group = max(1, round(step / outcome.along.narrow_mm))
    count = max(1, len(widths) // group)
    means = np.array([part.mean() for part in np.array_split(widths, count)])
    places = np.array([part.mean() for part in np.array_split(np.arange(len(widths)), count)])
    return (places + 0.5) * outcome.along.narrow_mm, means


def _find_time_below(outcome: Outcome, limit_c: float) -> float | None:
    """Return when the hottest place falls below a temperature after the arc, s, or None."""
    out = outcome.stopped_s + outcome.problem.arc.taper_s
    times, values = outcome.max_at_s, outcome.max_c
    hot = np.flatnonzero(values >= limit_c)
    if not len(hot):
        return 0.0
    last = hot[-1]
    if last + 1 >= len(values):
        return None
    upper, lower = values[last], values[last + 1]
    part = (upper - limit_c) / max(upper - lower, 1e-9)
    return max(0.0, float(times[last] + part * (times[last + 1] - times[last]) - out))


def _calculate_time_above(outcome: Outcome, probe: int, limit_c: float) -> float:
    """Return how long a probe is above a temperature, s; probe −1 is the middle of the seam."""
    times, values = outcome.history[:, 0], outcome.history[:, probe]
    steps = np.diff(times, prepend=times[0])
    return float(steps[values >= limit_c].sum())


def _list_stretches(along: Floats, chosen: NDArray[np.bool_]) -> tuple[tuple[float, float], ...]:
    """Return stretches of places as (from, to) mm."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], chosen, [False])).astype(int)))
    return tuple(
        (round(float(along[first]), 1), round(float(along[min(after, len(along) - 1)]), 1))
        for first, after in edges.reshape(-1, 2)
    )


def read_peak_c(outcome: Outcome, x_mm: float, y_mm: float) -> float:
    """Return the highest temperature at a place, °C.

    Args:
        outcome: The field.
        x_mm: Along the seam from its start, mm.
        y_mm: Across the seam, mm, positive on the first member.
    """
    low, high, share = find_node(outcome.across, outcome.problem, y_mm)
    profile = outcome.peak_c[_find_row(outcome, x_mm)]
    return float(profile[low] * (1 - share) + profile[high] * share)
