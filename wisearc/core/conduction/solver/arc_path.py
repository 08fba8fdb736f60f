"""Where the arc is at each moment, what energy it gives, and when it and its gas are out."""

from __future__ import annotations

import math

import numpy as np

from ..metal import Floats
from ..problem import Problem


class ArcPath:
    """The arc of a seam in time.

    `start_mm` and `path_mm` are where it starts in the sheet and how far it travels.
    `moving_from_s` is None until it moves. `arc_mm` is its present place.
    """

    def __init__(self, problem: Problem) -> None:
        """Create the path of a seam."""
        self.problem, self.arc = problem, problem.arc
        self.start_mm, self.path_mm = 0.0, problem.length_mm
        if not problem.closed:
            self.start_mm = problem.before_mm + problem.inset_mm
            self.path_mm -= 2 * problem.inset_mm
        self.moving_from_s = None if self.arc.max_start_s > 0 else 0.0
        self.arc_mm = self.start_mm

    @property
    def max_weld_s(self) -> float:
        """Return the longest time that the arc can burn, s."""
        arc = self.arc
        return self.path_mm / arc.travel_mm_s + arc.taper_s + arc.max_start_s

    @property
    def stopped_s(self) -> float:
        """Return when the arc stops to travel, s, infinite before it moves."""
        if self.moving_from_s is None:
            return math.inf
        return self.moving_from_s + self.path_mm / self.arc.travel_mm_s

    def is_burning(self, now_s: float) -> bool:
        """Return whether the arc burns at a time, s."""
        return now_s < self.stopped_s + self.arc.taper_s - 1e-9

    def has_gas(self, now_s: float) -> bool:
        """Return whether the gas of the cup flows at a time, s."""
        return now_s < self.stopped_s + self.arc.taper_s + self.problem.postflow_s

    def find_jet_mm(self, now_s: float) -> float | None:
        """Return where the gas of the cup blows at a time in s, mm, or None."""
        return self.arc_mm if self.has_gas(now_s) else None

    def plan(self, now_s: float, step_s: float, substeps: int) -> tuple[Floats, Floats]:
        """Return where the arc is in each substep, mm, and its energy in it, J.

        Args:
            now_s: The present time, s.
            step_s: Length of a substep, s.
            substeps: Their number.
        """
        arc = self.arc
        times = now_s + step_s * np.arange(substeps + 1)
        stopped, moving = self.stopped_s, self.moving_from_s
        charge = self._charge(np.minimum(times, stopped))
        if arc.taper_s:
            tapered = np.clip((times - stopped) / arc.taper_s, 0.0, 1.0)
            charge = charge + arc.train.mean * arc.taper_s * (tapered - tapered**2 / 2)
        middle = times[:-1] + step_s / 2
        travelled = np.zeros(substeps) if moving is None else arc.travel_mm_s * (middle - moving)
        places: Floats = self.start_mm + np.clip(travelled, 0.0, self.path_mm)
        return places, arc.efficiency * arc.voltage_v * arc.peak_a * np.diff(charge)

    def _charge(self, weld_s: Floats) -> Floats:
        """Return the peak-seconds that the pulse has given at times from its start, s."""
        train = self.arc.train
        if train.is_steady:
            return weld_s * train.mean
        period = 1 / train.rate_pps
        full = np.floor(weld_s / period)
        rest = weld_s - full * period
        peak = train.on * period
        inside = np.minimum(rest, peak) + train.background * np.maximum(0.0, rest - peak)
        charged: Floats = full * period * train.mean + inside
        return charged
