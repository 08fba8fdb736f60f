"""What a calculation records: peaks, growth of oxide, pools, pictures, probes."""

from __future__ import annotations

import numpy as np

from ..grid import find_node, measure_length_mm, measure_widths_mm
from ..metal import Floats
from ..outcome import MIDDLE_SHARE, Frame, PoolAt
from .arc_path import ArcPath
from .columns import WideColumns
from .mesh import Mesh
from .window import Window

# The wide columns beside the window are recorded once in so many large steps.
_WIDE_EVERY = 5


class Records:
    """The records of a seam.

    `peak` is the highest enthalpy, `front` and `back` are the growth of oxide in s at 600 °C, for
    narrow columns (rows, nodes). The same of the time as wide columns is in `wide_peak` and so on.
    `history` has the time and the enthalpy of each probe; the last one is in the middle of the
    seam.
    """

    def __init__(self, mesh: Mesh, path: ArcPath, wide: WideColumns) -> None:
        """Create the records of a seam that is at its start temperature.

        Args:
            mesh: The cells of the seam.
            path: The arc.
            wide: The wide columns.
        """
        problem, across, along, tables = mesh.problem, mesh.across, mesh.along, mesh.tables
        self.problem, self.across, self.along = problem, across, along
        self.tables, self.path, self.wide = tables, path, wide
        self.peak = np.repeat(wide.enthalpy, along.divided, axis=0)
        self.front, self.back = np.zeros_like(self.peak), np.zeros_like(self.peak)
        self.wide_peak = wide.enthalpy.copy()
        self.wide_front, self.wide_back = (np.zeros_like(wide.enthalpy) for _ in range(2))
        self.maxima: list[tuple[float, float]] = []
        self.pools: list[PoolAt] = []
        self.frames: list[Frame] = []
        self.history: list[tuple[float, ...]] = []
        places = (*problem.probes_mm, (MIDDLE_SHARE * problem.length_mm, 0.0))
        self.places = [(problem.seam_mm + x, find_node(across, problem, y)) for x, y in places]
        self.recorded_s = 0.0

    def save_window(self, window: Window) -> None:
        """Save the peaks of a window before it moves or closes."""
        self.peak[window.rows] = np.maximum(self.peak[window.rows], window.peak)

    def record_step(self, now_s: float, window: Window | None) -> None:
        """Record the hottest place, the growth of oxide, and the peaks of the wide columns.

        Args:
            now_s: The time, s.
            window: The narrow columns, or None without them.
        """
        seconds, self.recorded_s = now_s - self.recorded_s, now_s
        hottest = self.wide.enthalpy if window is None else window.enthalpy
        self.maxima.append((now_s, float(hottest.max())))
        if window is not None:
            rows = window.rows
            front, back = self._grow_oxide(now_s, window.enthalpy, window.middle_mm, seconds)
            self.front[rows] += front
            self.back[rows] += back
            if window.complete or len(self.maxima) % _WIDE_EVERY:
                return
            seconds *= _WIDE_EVERY
        outside = np.ones(self.along.columns, dtype=bool)
        if window is not None:
            outside[window.covered] = False
        enthalpy, middles = self.wide.enthalpy[outside], self.wide.middle_mm[outside]
        front, back = self._grow_oxide(now_s, enthalpy, middles, seconds)
        self.wide_front[outside] += front
        self.wide_back[outside] += back
        self.wide_peak[outside] = np.maximum(self.wide_peak[outside], enthalpy)
        if window is None:
            self.record_probes(now_s, None)

    def _grow_oxide(
        self, now_s: float, enthalpy: Floats, middle_mm: Floats, seconds: float
    ) -> tuple[Floats, Floats]:
        """Return the growth of oxide in a time: on the front only outside the cover of the cup."""
        back = self.tables.read(self.tables.oxide, enthalpy) * seconds
        if not self.path.has_gas(now_s):
            return back, back
        away = (middle_mm[:, None] - self.path.arc_mm) ** 2 + self.across.distance_mm**2
        return np.where(away > self.problem.cover_mm**2, back, 0.0), back

    def record_probes(self, now_s: float, window: Window | None) -> None:
        """Record the enthalpy of the probes.

        Args:
            now_s: The time, s.
            window: The narrow columns, or None without them.
        """
        row = [now_s]
        for at_mm, (low, high, share) in self.places:
            enthalpy, middle, width = self.wide.enthalpy, self.wide.middle_mm, self.along.width_mm
            if window is not None and window.middle_mm[0] <= at_mm <= window.middle_mm[-1]:
                enthalpy, middle = window.enthalpy, window.middle_mm
                width = self.along.narrow_mm
            place = min(len(middle) - 1.0, max(0.0, (at_mm - middle[0]) / width))
            before = int(place)
            after = min(len(middle) - 1, before + 1)
            part = place - before
            first, second = (
                enthalpy[i, low] * (1 - share) + enthalpy[i, high] * share for i in (before, after)
            )
            row.append(float(first * (1 - part) + second * part))
        self.history.append(tuple(row))

    def measure_pool(self, window: Window) -> tuple[float, float]:
        """Return the width and the length of the pool now, mm."""
        metal = self.problem.metal
        temperature = metal.find_temperature_c(window.enthalpy)
        if temperature.max() < metal.liquidus_c:
            return 0.0, 0.0
        width = float(measure_widths_mm(self.across, self.problem, temperature).max())
        return width, measure_length_mm(temperature[:, 0], self.along.narrow_mm, metal.liquidus_c)

    def record_pool(self, now_s: float, window: Window) -> None:
        """Record the pool.

        Args:
            now_s: The time, s.
            window: The narrow columns.
        """
        width, length = self.measure_pool(window)
        self.pools.append(PoolAt(now_s, self.path.arc_mm - self.path.start_mm, width, length))

    def record_frame(self, now_s: float, window: Window | None) -> None:
        """Record a picture of the field.

        Args:
            now_s: The time, s.
            window: The narrow columns, or None without them.
        """
        find = self.problem.metal.find_temperature_c
        self.frames.append(
            Frame(
                time_s=now_s,
                arc_mm=self.path.arc_mm - self.path.start_mm,
                burning=self.path.is_burning(now_s),
                gas=self.path.has_gas(now_s),
                wide_c=find(self.wide.enthalpy).astype(np.float32),
                first_column=0 if window is None else window.first,
                narrow_c=None if window is None else find(window.enthalpy).astype(np.float32),
            )
        )
