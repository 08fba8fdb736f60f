"""Welds by rule: one without a slip, and welds with one slip, as a model and for tests.

A simulated welder reads the pool and acts every step: waits for the pool, travels, dabs, tapers and
keeps still. A slip changes one of these by an amount.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import cycle

import numpy as np
from msgspec import Struct

from ..conduction.seam import MAX_START_S
from .piece import Piece, Target
from .sheet import STEP_S
from .track import Track, build_track
from .virtual_seam import VirtualSeam

SLIPS = (
    "too-slow",
    "too-fast",
    "too-hot",
    "too-cold",
    "restart-late",
    "end-cut-off",
    "dabs-uneven",
    "lifted-early",
    "off-the-seam",
)
# Before the arc the torch is placed, and after a stop the next arc follows, s. Estimates.
_PLACED_S, _PAUSED_S, UP_S = 0.3, 3.0, 0.2
# A tack is held until its pool joins: this share of the bead, at most this long, s. Handbook 16.8,
# common practice; the share is an estimate.
_TACK_SHARE, _MAX_TACK_S = 0.7, 1.2
# The distance of a torch that leaves early, mm.
_LIFTED_MM = 60.0
# The pool of the first weld, as a share of the planned one, before the target is known. Estimate.
_FIRST_SHARE = 0.6
# The middle of the bead that gives the target, as shares of its length. Estimate.
_STEADY = (0.35, 0.8)


class Slip(Struct, frozen=True):
    """An error of a simulated weld, with its amount.

    Amounts: travel and current as shares, a late restart s, a cut taper as the missing share, dabs
    as the spread of their times, an early lift as the missing share of the post-flow, and the way
    off the seam in target widths.
    """

    key: str = ""
    amount: float = 0.0


class Tremor(Struct, frozen=True):
    """The small unevenness of a real weld.

    Standard deviations: shares of travel and current, mm across, and shares of the time of a dab.
    `draws` are numbers of the normal distribution, used one after the other.
    """

    travel: float = 0.0
    current: float = 0.0
    across_mm: float = 0.0
    dabs: float = 0.0
    draws: Sequence[float] = ()


NO_SLIP, NO_TREMOR = Slip(), Tremor()
# The times of uneven dabs, in amounts of the slip. Estimate.
_UNEVEN = (1.0, -1.0, 0.6, -0.4, -1.0, 0.8)
# The wander of a tremor: share of a new place in every step, and its gain. Estimates.
_WANDER, _WANDER_GAIN = 0.08, 2.5


class _SimulatedWelder:
    """A weld in progress, with its samples and dabs."""

    def __init__(self, piece: Piece, slip: Slip, tremor: Tremor) -> None:
        self.piece, self.slip, self.tremor = piece, slip, tremor
        self.seam = VirtualSeam(piece)
        self.draws = cycle(tremor.draws or (0.0,))
        self.x_mm = piece.start_mm
        self.samples: list[tuple[float, float, float, float]] = []
        self.dabs: list[float] = []
        self.drift = [0.0, 0.0, 0.0]

    def get_amount(self, key: str) -> float:
        """Return the amount of a slip, 0 for another one."""
        return self.slip.amount if self.slip.key == key else 0.0

    def weld(self) -> Track:
        """Weld the piece from the first strike to the end of the gas."""
        piece = self.piece
        self._act(_PLACED_S, 0.0)
        if piece.tack_marks_mm:
            self._set_tacks()
            return build_track(self.samples, self.dabs, None)
        parts = [piece.end_mm] if piece.stop_mm is None else [piece.stop_mm, piece.end_mm]
        for number, end_mm in enumerate(parts):
            self._start(is_restart=number > 0)
            self._travel_to(end_mm)
            is_last = number == len(parts) - 1
            self._taper(cut=self.get_amount("end-cut-off") if is_last else 0.0)
            self._keep_still(is_last)
        return build_track(self.samples, self.dabs, None)

    def _act(self, seconds: float, current_a: float, to_a: float | None = None) -> None:
        """Keep the torch where it is for a time, while the current goes to another one."""
        steps = max(0, round(seconds / STEP_S))
        for n in range(steps):
            part = (n + 1) / steps
            rise = 0.0 if to_a is None else part * (to_a - current_a)
            self._make_step(0.0, current_a + rise)

    def _make_step(self, travel_mm_s: float, current_a: float) -> None:
        tremor, drift = self.tremor, self.drift
        for i, spread in enumerate((tremor.travel, tremor.current, tremor.across_mm)):
            # A slow wander: nobody jumps from one step to the next.
            drift[i] += _WANDER * (_WANDER_GAIN * spread * next(self.draws) - drift[i])
        self.x_mm += travel_mm_s * (1 + drift[0]) * STEP_S
        off = self.get_amount("off-the-seam")
        y_mm = drift[2] + (off * self.piece.target_mm if off else 0.0)
        asked_a = current_a * (1 + drift[1]) if current_a else 0.0
        time_s = (len(self.samples) + 0.5) * STEP_S
        self.samples.append((time_s, self.x_mm, y_mm, asked_a))
        self.seam.step(self.x_mm, y_mm, asked_a)

    @property
    def _current_a(self) -> float:
        change = self.get_amount("too-hot") - self.get_amount("too-cold")
        return self.piece.peak_a * (1 + change)

    def _start(self, is_restart: bool) -> None:
        """Strike, and wait for the pool."""
        self._act(UP_S, 0.0, self._current_a)
        waited = UP_S
        while waited < MAX_START_S and self.seam.bead.width_mm < self.piece.start_width_mm:
            self._make_step(0.0, self._current_a)
            waited += STEP_S
        if is_restart:
            self._act(self.get_amount("restart-late"), self._current_a, self._current_a)

    def _travel_to(self, end_mm: float) -> None:
        piece, uneven = self.piece, self.get_amount("dabs-uneven")
        change = self.get_amount("too-fast") - self.get_amount("too-slow")
        speed = piece.travel_mm_s * (1 + change)
        pitch = piece.dab_pitch_mm
        next_mm = self.x_mm + (pitch or 0.0) / 2
        while self.x_mm < end_mm:
            self._make_step(speed, self._current_a)
            if pitch and self.x_mm >= next_mm:
                self._dab()
                late = uneven * _UNEVEN[len(self.dabs) % len(_UNEVEN)]
                late += self.tremor.dabs * next(self.draws)
                next_mm += pitch * max(0.1, 1 + late)

    def _dab(self) -> None:
        time_s = (len(self.samples) + 0.5) * STEP_S
        self.dabs.append(time_s)
        self.seam.add_dabs([time_s])

    def _set_tacks(self) -> None:
        """Set a tack at each mark: hold until the pool joins, then keep still under the gas."""
        piece = self.piece
        for mark_mm in piece.tack_marks_mm:
            self.x_mm = mark_mm
            self._act(STEP_S, 0.0)
            held = 0.0
            while held < _MAX_TACK_S and self.seam.bead.width_mm < _TACK_SHARE * piece.target_mm:
                self._make_step(0.0, piece.tack_a)
                held += STEP_S
            self._act(piece.postflow_s + STEP_S, 0.0)

    def _taper(self, cut: float) -> None:
        seconds = self.piece.taper_s * (1 - cut)
        self._act(seconds, self._current_a, 0.0)
        self._act(STEP_S, 0.0)

    def _keep_still(self, is_last: bool) -> None:
        piece = self.piece
        if not is_last:
            self._act(_PAUSED_S, 0.0)
            return
        held = piece.postflow_s * (1 - self.get_amount("lifted-early"))
        self._act(held, 0.0)
        if held < piece.postflow_s:
            self.x_mm += _LIFTED_MM
        self._act(piece.postflow_s - held + 1.0, 0.0)


class SimulatedWeld(Struct, frozen=True, eq=False):
    """A simulated weld: its track, and the seam that it leaves."""

    track: Track
    seam: VirtualSeam


def simulate_weld(piece: Piece, slip: Slip = NO_SLIP, tremor: Tremor = NO_TREMOR) -> SimulatedWeld:
    """Weld a piece by rule.

    Args:
        piece: The piece.
        slip: The error of the weld.
        tremor: Its small unevenness.
    """
    welder = _SimulatedWelder(piece, slip, tremor)
    track = welder.weld()
    return SimulatedWeld(track, welder.seam)


def measure_target(piece: Piece) -> Target:
    """Return the middle of the bead of a weld without a slip.

    Args:
        piece: The piece.
    """
    from .motion import smooth_widths

    plain = Piece(piece.plan, piece.problem)
    width = _FIRST_SHARE * piece.plan.travel.pool_width_mm
    plain.__dict__["target"] = Target(width, width)
    seam = simulate_weld(plain).seam
    widths, middles = smooth_widths(seam), seam.sheet.middle_mm
    low, high = (share * piece.length_mm for share in _STEADY)
    steady = widths[(middles >= low) & (middles <= high)]
    lengths = [s.length_mm for s in seam.steps if low <= s.x_mm <= high and s.is_burning]
    # At the end of a peak, or just before a dab, the pool is longest.
    length = float(np.quantile(lengths, 0.9)) if lengths else width
    return Target(float(np.median(steady)), length)
