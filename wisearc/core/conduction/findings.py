"""What a field answers: pool along the seam, tints, where it burns through, when it is cool."""

from __future__ import annotations

import math

import numpy as np
from msgspec import Struct

from ..physics.distortion import tendon_kn as calculate_tendon_kn
from ..physics.heat import AMBIENT_C
from .field import GLOW_C, SENSITISING_C, measure_widths_mm, read_across
from .metal import Floats
from .outcome import Outcome
from .tint import find_tint

HOT_BAND_C = 450.0
# A seam does not fuse where its pool is narrower than the first share of the target, and burns
# through where it is wider than the second. Estimates; the second is handbook 3.6.
MIN_FUSED_SHARE, MAX_POOL_SHARE = 0.5, 1.5
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
    width in the middle and at the end mm, wait to
    the interpass limit s (None: not within the calculated time), shrinkage force kN, heat into the
    bars as a share, and the probes.
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
    end_width_mm: float
    wait_s: float | None
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
    train = problem.arc.train
    pitch = 0.0 if train.is_steady else problem.arc.travel_mm_s / train.rate_pps
    along, widths = _list_widths(outcome, pitch)
    steady = _choose_middle(outcome)
    pools = [p for p in outcome.pools if p.time_s <= outcome.stopped_s + 1e-6]
    middle = [p for p in pools if steady[0] <= p.arc_mm <= steady[1]] or pools
    peaks = [p.width_mm for p in middle]
    lengths = [p.length_mm for p in middle]
    between = min(peaks, default=0.0)
    at = float(np.mean(steady))
    front, back = _read_tints(outcome, at)
    worst = find_tint(float(outcome.front_c[_get_seam_rows(outcome)].max()))
    inner = (along > problem.inset_mm + target_mm / 2) & (
        along < problem.length_mm - problem.inset_mm - target_mm / 2
    )
    if problem.closed:
        inner = np.ones_like(inner)
    mean = AMBIENT_C + _calculate_mean_rise(outcome)
    wait = _find_time_below(outcome, problem.interpass_c)
    heat_mm = (outcome.input_j - outcome.barred_j / 2) / problem.length_mm
    return Findings(
        width_peak_mm=max(peaks, default=0.0),
        length_peak_mm=max(lengths, default=0.0),
        width_between_mm=between,
        width_along_mm=tuple(
            (round(float(x), 1), round(float(w), 2)) for x, w in zip(along, widths, strict=True)
        ),
        hot_band_mm=_measure_band_mm(outcome, at, HOT_BAND_C),
        glow_after_stop_s=max(0.0, _find_time_below(outcome, GLOW_C) or 0.0),
        over_600_s=_calculate_time_above(outcome, at, SENSITISING_C),
        tint_front=front,
        tint_back=back,
        worst_front=worst,
        burnt_mm=_list_stretches(along, widths > MAX_POOL_SHARE * target_mm),
        unfused_mm=_list_stretches(along, inner & (widths < MIN_FUSED_SHARE * target_mm)),
        mean_end_c=mean,
        middle_width_mm=float(
            widths[(along >= steady[0]) & (along <= steady[1])].mean() if len(widths) > 8 else 0.0
        ),
        end_width_mm=float(widths[-4:].max()) if len(widths) else 0.0,
        wait_s=wait,
        tendon_kn=calculate_tendon_kn(max(0.0, heat_mm)),
        bar_share=outcome.barred_j / max(outcome.input_j, 1e-9),
        probes=_list_probes(outcome),
    )


def _get_seam_rows(outcome: Outcome) -> slice:
    """Return the fine columns of the seam."""
    problem, fine = outcome.problem, outcome.along.fine_mm
    first = 0.0 if problem.closed else problem.before_mm
    return slice(round(first / fine), round((first + problem.length_mm) / fine))


def _list_widths(outcome: Outcome, pitch_mm: float) -> tuple[Floats, Floats]:
    """Return places along the seam and the melted width there, mm, by ripples or every 2 mm."""
    rows = outcome.peak_c[_get_seam_rows(outcome)]
    widths = measure_widths_mm(outcome.across, outcome.problem, rows)
    fine = outcome.along.fine_mm
    step = ALONG_STEP_MM
    if pitch_mm:
        # Whole ripples, so that their narrow places count everywhere alike.
        step = pitch_mm * math.ceil(ALONG_STEP_MM / pitch_mm)
    group = max(1, round(step / fine))
    count = max(1, len(widths) // group)
    means = np.array([part.mean() for part in np.array_split(widths, count)])
    places = np.array([part.mean() for part in np.array_split(np.arange(len(widths)), count)])
    return (places + 0.5) * fine, means


def _choose_middle(outcome: Outcome) -> tuple[float, float]:
    """Return the middle of the seam, from and to mm: its steady part."""
    length = outcome.problem.length_mm
    return 0.4 * length, 0.75 * length


def _read_tints(outcome: Outcome, at_mm: float) -> tuple[str, str]:
    """Return the tints of the front and the back beside the seam, in its middle.

    The front tints where the gas of the cup has left it. A back under argon or bars stays silver.
    """
    problem, fine = outcome.problem, outcome.along.fine_mm
    first = 0.0 if problem.closed else problem.before_mm
    row = min(len(outcome.front_c) - 1, int((first + at_mm) / fine))
    rows = slice(max(0, row - 4), row + 5)
    front = float(outcome.front_c[rows].mean(axis=0).max())
    back = AMBIENT_C if problem.back_covered else float(outcome.back_c[rows].mean(axis=0).max())
    return find_tint(front), find_tint(back)


def _measure_band_mm(outcome: Outcome, at_mm: float, limit_c: float) -> float:
    """Return the width of sheet whose peak exceeds a temperature, mm, over the heated strips."""
    problem = outcome.problem
    first = 0.0 if problem.closed else problem.before_mm
    row = min(len(outcome.peak_c) - 1, int((first + at_mm) / outcome.along.fine_mm))
    profile = outcome.peak_c[max(0, row - 4) : row + 5].mean(axis=0)
    total = 0.0
    for number, strip in enumerate(problem.strips, start=1):
        if strip.heat_share <= 0:
            continue
        chosen = np.flatnonzero((outcome.across.strip == number) | (outcome.across.strip == 0))
        values, distance = profile[chosen], outcome.across.distance_mm[chosen]
        if values[0] < limit_c:
            continue
        falling = np.minimum.accumulate(values)
        total += strip.count * float(np.interp(-limit_c, -falling, distance))
    return total


def _calculate_mean_rise(outcome: Outcome) -> float:
    """Return the mean rise of the part when the arc goes out, K."""
    problem = outcome.problem
    burning = [f for f in outcome.frames if f.time_s <= outcome.stopped_s + problem.arc.taper_s]
    if not burning:
        return problem.start_c - AMBIENT_C
    # The lag of the last picture is below one frame.
    temperature = burning[-1].coarse_c.astype(float)
    section = outcome.across.section_mm2
    mean = float((temperature @ section).sum() / (section.sum() * len(temperature)))
    return mean - AMBIENT_C


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


def _calculate_time_above(outcome: Outcome, at_mm: float, limit_c: float) -> float:
    """Return how long the seam is above a temperature at a place, s, from the pictures."""
    problem = outcome.problem
    first = 0.0 if problem.closed else problem.before_mm
    column = min(outcome.along.columns - 1, int((first + at_mm) / outcome.along.width_mm))
    times = np.array([f.time_s for f in outcome.frames])
    seam = np.array([float(f.coarse_c[column, 0]) for f in outcome.frames])
    if len(times) < 2:
        return 0.0
    fine = np.linspace(times[0], times[-1], 4000)
    above = np.interp(fine, times, seam) >= limit_c
    return float(above.sum() * (fine[1] - fine[0]))


def _list_stretches(along: Floats, chosen: np.ndarray) -> tuple[tuple[float, float], ...]:
    """Return stretches of places as (from, to) mm."""
    stretches: list[tuple[float, float]] = []
    start = None
    for x, inside in zip(along, chosen, strict=True):
        if inside and start is None:
            start = float(x)
        if not inside and start is not None:
            stretches.append((round(start, 1), round(float(x), 1)))
            start = None
    if start is not None:
        stretches.append((round(start, 1), round(float(along[-1]), 1)))
    return tuple(stretches)


def _list_probes(outcome: Outcome) -> tuple[ProbeRecord, ...]:
    """Return the highest temperature of each probe, and its time above 600 °C."""
    probes = []
    for i, (x, y) in enumerate(outcome.problem.probes_mm, start=1):
        times, values = outcome.history[:, 0], outcome.history[:, i]
        steps = np.diff(times, prepend=0.0)
        probes.append(
            ProbeRecord(x, y, float(values.max()), float(steps[values >= SENSITISING_C].sum()))
        )
    return tuple(probes)


def read_peak_c(outcome: Outcome, x_mm: float, y_mm: float) -> float:
    """Return the highest temperature at a place, °C.

    Args:
        outcome: The field.
        x_mm: Along the seam from its start, mm.
        y_mm: Across the seam, mm, positive on the first member.
    """
    problem = outcome.problem
    first = 0.0 if problem.closed else problem.before_mm
    row = min(len(outcome.peak_c) - 1, max(0, int((first + x_mm) / outcome.along.fine_mm)))
    return read_across(outcome.across, problem, outcome.peak_c[row], y_mm)
