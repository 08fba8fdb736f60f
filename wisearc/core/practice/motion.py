"""Measurements of a practised weld: travel, current, dabs, restarts and the end."""

from __future__ import annotations

import itertools
import math

import numpy as np
from msgspec import Struct

from ..conduction.metal import Floats
from .piece import Piece
from .sheet import STEP_S
from .virtual_seam import VirtualSeam

# Travel speed is measured over this length of seam, mm. Estimate.
BIN_MM = 4.0
# A torch that is this far from its strike has moved on, mm. Estimate.
MOVED_MM = 1.0
# A shorter arc is a flicker and no start, s. Estimate.
_MIN_ARC_S = 0.15
# The steady current of an arc ends where it falls below this share for good. Estimate.
_TAPER_FROM = 0.9
# Values along the seam are averaged over this number of steps. Estimate.
_AVERAGED_STEPS = 10
# The bead is not measured within this distance of a start, a stop or the end, in targets. Estimate.
_ENDS = 1.2


class ArcPart(Struct, frozen=True):
    """One arc of a seam, from strike to break.

    Strike s and mm, when it moved on s, the pool then mm, when the taper began s, and its end s,
    along and across the seam mm.
    """

    strike_s: float
    strike_mm: float
    moved_s: float
    moved_width_mm: float
    taper_from_s: float
    end_s: float
    end_mm: float
    end_y_mm: float

    @property
    def pool_s(self) -> float:
        """Return the time from the strike until the torch moved on, s."""
        return self.moved_s - self.strike_s

    @property
    def taper_s(self) -> float:
        """Return the time of the taper, s."""
        return self.end_s - self.taper_from_s


class MotionFacts(Struct, frozen=True, eq=False):
    """The measurements of a practised weld.

    Attributes:
        parts: The arcs in order.
        moving_s: How long the torch travelled with a steady current, s.
        travel: Rows (n, 2) along the seam: place mm, travel speed mm/s.
        current: Rows (n, 2): place mm, current that the pedal asked for A.
        mean_a: Mean current of the arc while it travelled, A.
        off: Rows (n, 2): place mm, distance from the seam mm, signed.
        intervals: Rows (n, 2): place mm, time to the next dab s.
        lost_dabs: Dabs outside a pool.
        widths: Rows (n, 2): place mm, width of the bead mm, without starts, stops and the end.
        overlaps: Rows (n, 2): place mm, overlap of the pool with the one before, as a share.
        welded_share: Share of the seam that is fused.
        held_s: How long the torch covered the end after the arc, s, or None if the track ends
            before.
    """

    parts: tuple[ArcPart, ...]
    moving_s: float
    travel: Floats
    current: Floats
    mean_a: float
    off: Floats
    intervals: Floats
    lost_dabs: int
    widths: Floats
    overlaps: Floats
    welded_share: float
    held_s: float | None

    @property
    def mean_travel_mm_s(self) -> float | None:
        """Return the mean travel speed, mm/s, or None if nothing was travelled."""
        if not len(self.travel):
            return None
        return float(1 / np.mean(1 / np.maximum(self.travel[:, 1], 0.05)))

    @property
    def mean_current_a(self) -> float | None:
        """Return the mean current that the pedal asked for while travelling, A, or None."""
        return float(self.current[:, 1].mean()) if len(self.current) else None


def measure_motion(seam: VirtualSeam) -> MotionFacts:
    """Measure a practised weld.

    Args:
        seam: The welded seam.
    """
    table = np.array(
        [
            (s.time_s, s.x_mm, s.y_mm, s.current_a, s.width_mm, s.length_mm, s.is_burning, s.mean_a)
            for s in seam.steps
        ]
    ).reshape(-1, 8)
    parts = _find_parts(seam, table)
    moving = np.zeros(len(table), dtype=bool)
    for part in parts:
        moving |= (table[:, 0] > part.moved_s) & (table[:, 0] <= part.taper_from_s)
    travelled = table[moving]
    return MotionFacts(
        parts=parts,
        moving_s=float(moving.sum()) * STEP_S,
        travel=_measure_travel(travelled),
        current=_average(travelled, 3),
        mean_a=float(travelled[:, 7].mean()) if len(travelled) else 0.0,
        off=_average(travelled, 2),
        intervals=_list_intervals(seam, parts),
        lost_dabs=sum(not dab.melted for dab in seam.dabs),
        widths=_list_widths(seam, parts),
        overlaps=_list_overlaps(seam, table, parts),
        welded_share=_find_welded_share(seam),
        held_s=_find_held_s(seam, table, parts),
    )


def _find_parts(seam: VirtualSeam, table: Floats) -> tuple[ArcPart, ...]:
    """Return the arcs, without flickers."""
    parts = []
    broken = [*seam.broken, len(table)][: len(seam.struck)]
    for first, last in zip(seam.struck, broken, strict=True):
        if (last - first) * STEP_S < _MIN_ARC_S:
            continue
        rows = table[first:last]
        away = np.hypot(rows[:, 1] - rows[0, 1], rows[:, 2] - rows[0, 2])
        moved = np.flatnonzero(away > MOVED_MM)
        went = int(moved[0]) if len(moved) else len(rows) - 1
        # The current that it held: the median from there on, without the slope at its end.
        held = float(np.median(rows[went:, 3]))
        strong = np.flatnonzero(rows[:, 3] >= _TAPER_FROM * held)
        steady = int(strong[-1]) if len(strong) else len(rows) - 1
        # Under a slow pulse the pool is the one at the last peak.
        beat = 1 / seam.piece.problem.arc.train.rate_pps if seam.piece.slow_pulse else STEP_S
        last_beat = rows[max(0, went - round(beat / STEP_S)) : went + 1, 4]
        parts.append(
            ArcPart(
                strike_s=float(rows[0, 0]) - STEP_S,
                strike_mm=float(rows[0, 1]),
                moved_s=float(rows[went, 0]),
                moved_width_mm=float(last_beat.max()),
                taper_from_s=float(rows[max(steady, went), 0]),
                end_s=float(rows[-1, 0]),
                end_mm=float(rows[-1, 1]),
                end_y_mm=float(rows[-1, 2]),
            )
        )
    return tuple(parts)


def _measure_travel(rows: Floats) -> Floats:
    """Return the travel speed along the seam: the length of a bin by the time in it."""
    if len(rows) < 2:
        return np.empty((0, 2))
    low, high = float(rows[:, 1].min()), float(rows[:, 1].max())
    count = max(1, round((high - low) / BIN_MM))
    if high - low < MOVED_MM:
        return np.empty((0, 2))
    edges = np.linspace(low, high, count + 1)
    times = np.histogram(rows[:, 1], edges)[0] * STEP_S
    # A bin that is jumped over was crossed faster than a step.
    speeds = (edges[1] - edges[0]) / np.maximum(times, STEP_S / 2)
    return np.column_stack([(edges[1:] + edges[:-1]) / 2, speeds])


def _average(rows: Floats, column: int) -> Floats:
    """Return places and a value, averaged over about a quarter of a second."""
    if not len(rows):
        return np.empty((0, 2))
    groups = np.array_split(rows[:, [1, column]], max(1, len(rows) // _AVERAGED_STEPS))
    return np.array([group.mean(axis=0) for group in groups])


def _list_intervals(seam: VirtualSeam, parts: tuple[ArcPart, ...]) -> Floats:
    """Return where each dab was and the time to the next one in the same arc."""
    rows = []
    for part in parts:
        dabs = [d for d in seam.dabs if part.strike_s <= d.time_s <= part.end_s and d.melted]
        rows += [(a.x_mm, b.time_s - a.time_s) for a, b in itertools.pairwise(dabs)]
    return np.array(rows).reshape(-1, 2)


def smooth_widths(seam: VirtualSeam) -> Floats:
    """Return the width of the bead in each column, mm: under a slow pulse that of its ripples.

    Args:
        seam: The seam.
    """
    widths, piece = seam.bead.list_widths_mm(), seam.piece
    if not piece.slow_pulse:
        return widths
    pitch = piece.travel_mm_s / piece.problem.arc.train.rate_pps
    half = max(1, math.ceil(pitch / seam.sheet.width_mm / 2))
    padded = np.pad(widths, half)
    smooth: Floats = np.lib.stride_tricks.sliding_window_view(padded, 2 * half + 1).max(axis=1)
    return smooth


def _list_widths(seam: VirtualSeam, parts: tuple[ArcPart, ...]) -> Floats:
    """Return the width along the seam without its starts, stops and end."""
    piece, middles = seam.piece, seam.sheet.middle_mm
    ends = _ENDS * piece.target_mm
    inside = (middles > piece.start_mm + ends) & (middles < piece.end_mm - ends)
    for part in parts:
        for at_mm in (part.strike_mm, part.end_mm):
            inside &= np.abs(middles - at_mm) > ends
    return np.column_stack([middles[inside], smooth_widths(seam)[inside]])


def _list_overlaps(seam: VirtualSeam, table: Floats, parts: tuple[ArcPart, ...]) -> Floats:
    """Return the overlaps of slow pulses, or of dabs, for pools of the planned length."""
    piece = seam.piece
    if piece.slow_pulse:
        at_s = _list_peak_ends(piece, parts)
    else:
        at_s = [dab.time_s for dab in seam.dabs if dab.melted]
    rows = []
    for part in parts:
        inside = [t for t in at_s if part.moved_s <= t <= part.taper_from_s]
        places = np.interp(inside, table[:, 0], table[:, 1]).tolist()
        for a, b in itertools.pairwise(places):
            rows.append((b, piece.find_overlap(abs(b - a))))
    return np.array(rows).reshape(-1, 2)


def _list_peak_ends(piece: Piece, parts: tuple[ArcPart, ...]) -> list[float]:
    train = piece.problem.arc.train
    ends: list[float] = []
    for part in parts:
        count = int((part.end_s - part.strike_s) * train.rate_pps)
        ends += [part.strike_s + (n + train.on) / train.rate_pps for n in range(count)]
    return ends


def _find_welded_share(seam: VirtualSeam) -> float:
    """Return the share of the seam between its start and end on which the seam line melted."""
    piece, middles = seam.piece, seam.sheet.middle_mm
    inside = (middles >= piece.start_mm) & (middles <= piece.end_mm)
    return float(seam.bead.seam_molten[inside].mean()) if inside.any() else 0.0


def _find_held_s(seam: VirtualSeam, table: Floats, parts: tuple[ArcPart, ...]) -> float | None:
    """Return how long gas covered the last end after the arc, s, None if the track ends before."""
    if not parts:
        return None
    last = parts[-1]
    after = table[table[:, 0] > last.end_s]
    reach = seam.piece.problem.cover_mm
    away = after[np.hypot(after[:, 1] - last.end_mm, after[:, 2] - last.end_y_mm) > reach]
    gas_until = last.end_s + seam.piece.postflow_s
    if seam.gas_off_s is not None:
        gas_until = min(gas_until, max(last.end_s, seam.gas_off_s))
    left = float(away[0, 0]) - STEP_S if len(away) else math.inf
    if left == math.inf and (not len(after) or float(after[-1, 0]) < gas_until - STEP_S):
        return None
    return min(left, gas_until) - last.end_s
