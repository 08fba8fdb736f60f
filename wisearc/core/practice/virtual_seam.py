"""The virtual seam: the samples of a torch become pool, bead and tint, step by step.

The same steps are made during a weld and when its track is judged later, so that both give the same
bead.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from ..conduction.metal import Floats
from .bead import Bead
from .piece import Piece, count_steps
from .sheet import LOSS_EVERY, STEP_S, Sheet

# Below this the arc is out, A. Estimate.
MIN_ARC_A = 3.0
# A dab in a smaller pool than this share of the target leaves a lump. Estimate.
MIN_DAB_SHARE = 0.35

# What comes next in a weld.
STRIKE, WELD, RESTART, NEXT_MARK, HOLD, DONE = (
    "strike",
    "weld",
    "restart",
    "next-mark",
    "hold",
    "done",
)


class StepRecord(Struct, frozen=True):
    """A step: its end s, place of the torch mm, current asked for A, and the pool mm."""

    time_s: float
    x_mm: float
    y_mm: float
    current_a: float
    width_mm: float
    length_mm: float
    is_burning: bool
    mean_a: float


class DabRecord(Struct, frozen=True):
    """A dab: when s, where mm, and whether the pool was large enough to melt it."""

    time_s: float
    x_mm: float
    melted: bool


class VirtualSeam:
    """A seam during its weld."""

    def __init__(self, piece: Piece) -> None:
        """Create the cold piece.

        Args:
            piece: The piece.
        """
        self.piece = piece
        self.sheet = Sheet(piece.problem)
        self.bead = Bead(self.sheet)
        self.steps: list[StepRecord] = []
        self.dabs: list[DabRecord] = []
        # Ends of arcs, and starts after them, as indices of steps.
        self.struck: list[int] = []
        self.broken: list[int] = []
        self.gas_off_s: float | None = None
        self._furthest_mm = piece.start_mm
        self._waiting: list[float] = []
        self._last: Floats | None = None

    @property
    def now_s(self) -> float:
        """Return the simulated time, s."""
        return len(self.steps) * STEP_S

    @property
    def is_burning(self) -> bool:
        """Return whether the arc burns."""
        return bool(self.steps) and self.steps[-1].is_burning

    def has_gas(self, now_s: float) -> bool:
        """Return whether the gas of the cup flows at a time.

        Args:
            now_s: The time, s.
        """
        if self.gas_off_s is not None and now_s >= self.gas_off_s:
            return False
        if self.is_burning or not self.broken:
            return True
        return now_s <= self.broken[-1] * STEP_S + self.piece.postflow_s

    def find_due(self) -> str:
        """Return what comes next: one of the keys above.

        A stop in the middle is followed by a restart, and a tack by the next mark, also after the
        gas has stopped.
        """
        if self.is_burning:
            return WELD
        if not self.struck:
            return STRIKE
        piece = self.piece
        if piece.tack_marks_mm and self._furthest_mm < piece.tack_marks_mm[-1] - piece.target_mm:
            return NEXT_MARK
        if piece.stop_mm is not None and self._furthest_mm < piece.end_mm - piece.target_mm:
            return RESTART
        return HOLD if self.has_gas(self.now_s) else DONE

    def advance(self, samples: Floats, dabs_s: Sequence[float] = ()) -> int:
        """Step through all complete steps of further samples.

        Args:
            samples: Samples (n, 4) that follow the earlier ones: s, mm, mm, A.
            dabs_s: Times of further dabs, s.

        Returns:
            The number of steps.
        """
        self.add_dabs(dabs_s)
        rows = samples if self._last is None else np.vstack([self._last, samples])
        if not len(rows):
            return 0
        first, last = len(self.steps), count_steps(float(rows[-1, 0]), STEP_S)
        if last > first:
            middles = (np.arange(first, last) + 0.5) * STEP_S
            x, y, current = (np.interp(middles, rows[:, 0], rows[:, i]) for i in (1, 2, 3))
            for place in zip(x.tolist(), y.tolist(), current.tolist(), strict=True):
                self.step(*place)
        # The last sample before the next step is needed to interpolate it.
        before = np.flatnonzero(rows[:, 0] <= max(0.0, (last + 0.5) * STEP_S))
        self._last = rows[before[-1] if len(before) else 0 :]
        return last - first

    def add_dabs(self, dabs_s: Sequence[float]) -> None:
        """Add dabs that the next steps take.

        Args:
            dabs_s: Their times, s.
        """
        self._waiting += dabs_s

    def step(self, x_mm: float, y_mm: float, current_a: float) -> None:
        """Make one step.

        Args:
            x_mm: Place of the torch along the seam, mm.
            y_mm: Place of the torch across the seam, mm.
            current_a: The current that the pedal asks for, A.
        """
        number, sheet, bead = len(self.steps), self.sheet, self.bead
        burning = current_a >= MIN_ARC_A
        if burning and not self.is_burning:
            self.struck.append(number)
        if not burning and self.is_burning:
            self.broken.append(number)
        if burning:
            self._furthest_mm = max(self._furthest_mm, x_mm)
        mean_a = current_a * self._find_level(number) if burning else 0.0
        arc = self.piece.problem.arc
        dab_j = self._take_dabs(number, x_mm) if self._waiting else 0.0
        sheet.step(x_mm, y_mm, arc.efficiency * arc.voltage_v * mean_a * STEP_S, dab_j)
        now_s = (number + 1) * STEP_S
        bead.record_pool()
        self.steps.append(
            StepRecord(now_s, x_mm, y_mm, current_a, bead.width_mm, bead.length_mm, burning, mean_a)
        )
        if number % LOSS_EVERY == LOSS_EVERY - 1:
            gas = self.has_gas(now_s)
            sheet.lose(LOSS_EVERY * STEP_S, x_mm if gas else None)
            bead.grow_tint(LOSS_EVERY, (x_mm, y_mm) if gas else None)

    def _find_level(self, number: int) -> float:
        """Return the share of the asked current that the pulse gives in a step."""
        train = self.piece.problem.arc.train
        if self.piece.tack_marks_mm:
            # Tacks have no pulse: handbook 5.1, common practice.
            return 1.0
        if not self.piece.slow_pulse:
            return train.mean
        began_s = (number - self.struck[-1]) * STEP_S
        # The mean over the step, so that no part of a peak is lost between two steps.
        inside = (began_s * train.rate_pps) % 1.0
        share, cycle, left = STEP_S * train.rate_pps, inside, STEP_S * train.rate_pps
        total = 0.0
        while left > 1e-9:
            at_peak = cycle < train.on
            until = (train.on if at_peak else 1.0) - cycle
            part = min(left, until)
            total += part * (1.0 if at_peak else train.background)
            left -= part
            cycle = (cycle + part) % 1.0 if cycle + part < 1.0 - 1e-12 else 0.0
        return total / share

    def _take_dabs(self, number: int, x_mm: float) -> float:
        """Return the heat of the dabs in a step, J, and lay their metal."""
        end_s, taken = (number + 1) * STEP_S, 0.0
        while self._waiting and self._waiting[0] < end_s - 1e-9:
            time_s = self._waiting.pop(0)
            if not self.piece.dab_mm3:
                continue
            melted = self.bead.width_mm >= MIN_DAB_SHARE * self.piece.target_mm
            self.dabs.append(DabRecord(time_s, x_mm, melted))
            if melted:
                taken += self.piece.dab_j
                self.bead.add_rod(x_mm, self.piece.dab_mm3)
        return taken

    def finish(self) -> None:
        """Break the arc, if it still burns, at the end of a track."""
        if self.is_burning:
            self.broken.append(len(self.steps))
