"""The field in time: small steps on narrow columns around the arc, larger ones elsewhere.

A step is explicit along the seam and implicit across it, with a constant diffusivity in the
implicit part (Rosenbrock, of second order for constant properties). The narrow columns move with
the arc. The exchange between narrow and wide columns is counted once, so that no energy is lost.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable

import numpy as np

from ...errors import InputError
from ..outcome import Outcome
from ..problem import Arc, Problem
from ..tint import find_tint_temperature_c
from .arc_path import ArcPath
from .cells import NO_COLUMNS, Losses
from .columns import WideColumns
from .mesh import build_mesh
from .records import Records
from .window import NARROW_ABOVE_C, Window

# Share of the largest stable explicit step.
_SAFETY = 0.9
_LARGE_STEP_S = 0.35
# Share of the largest stable step of the wide columns while the arc burns.
_LARGE_SHARE = 0.65
# Between two records of a steady pool, s.
_POOL_EVERY_S = 0.5
# While the sheet cools, large steps of equal length, and the growth of the time between pictures.
_EQUAL_STEPS, _FRAME_GROWTH = 12, 1.25
# The pictures of the weld take this part of all pictures.
_WELD_FRAMES = 1 / 1.4
MAX_SUBSTEPS = 120_000

Progress = Callable[[float], None]


class TooLong(InputError):
    """A seam that takes too many steps."""


def run_field(problem: Problem, progress: Progress | None = None) -> Outcome:
    """Calculate the field of a seam from the start of the arc until it is cool.

    Of second order in space, and of first order in time along the seam; the step is a share of the
    square of the grid, so that the error falls with the square of the grid.

    Args:
        problem: The seam.
        progress: Called with the finished share, 0–1, several times a second. It may raise an
            error to stop.

    Returns:
        The calculated field.

    Raises:
        TooLong: The seam takes more than `MAX_SUBSTEPS` steps.
    """
    return _Run(problem).calculate(progress or (lambda share: None))


def _find_step_s(problem: Problem, narrow_mm: float) -> float:
    """Return the small step, s: stable, and a whole part of a cycle so that phases do not drift."""
    step = _SAFETY * narrow_mm**2 / (2 * problem.metal.max_a)
    if problem.arc.train.is_steady:
        return step
    period = 1 / problem.arc.train.rate_pps
    return period / math.ceil(period / step)


def _divide_period(arc: Arc, step_s: float, large_s: float) -> tuple[tuple[int, bool], ...]:
    """Return the small steps in each large step of a cycle, and whether a phase ends with it.

    A steady arc has equal large steps.
    """
    if arc.train.is_steady:
        return ((max(1, round(large_s / step_s)), False),)
    period = 1 / arc.train.rate_pps
    parts: list[tuple[int, bool]] = []
    for phase in (arc.train.on * period, (1 - arc.train.on) * period):
        substeps = max(1, round(phase / step_s))
        pieces = max(1, math.ceil(phase / (1.5 * large_s)))
        cuts = [round(substeps * i / pieces) for i in range(pieces + 1)]
        sizes = [b - a for a, b in itertools.pairwise(cuts) if b > a]
        parts += [(size, i == len(sizes) - 1) for i, size in enumerate(sizes)]
    return tuple(parts)


class _Run:
    """One calculation: the sheet, the arc and the records."""

    def __init__(self, problem: Problem) -> None:
        self.problem, self.metal = problem, problem.metal
        self.mesh = build_mesh(problem)
        self.along = self.mesh.along
        self.path = ArcPath(problem)
        self.step_s = _find_step_s(problem, self.along.narrow_mm)
        if self.path.max_weld_s / self.step_s > MAX_SUBSTEPS:
            raise TooLong(
                "travel_mm_s",
                problem.arc.travel_mm_s,
                f"makes a weld of {self.path.max_weld_s:.0f} s, and the field calculates "
                f"{MAX_SUBSTEPS} steps of {1000 * self.step_s:.1f} ms. Shorten the seam, or use a "
                "coarser grid",
            )
        self.losses = Losses(problem, self.mesh.across, self.mesh.tables)
        self.wide = WideColumns(self.mesh)
        self.window = Window(self.mesh, self.step_s, self.path.start_mm)
        self.records = Records(self.mesh, self.path, self.wide)
        self.now_s = self.input_j = 0.0
        self.stored_j = self.wide.count_energy()

    def calculate(self, progress: Progress) -> Outcome:
        """Step to the end, and return the calculated field."""
        mean_end_c = self._weld(progress)
        self._cool()
        progress(1.0)
        return self._conclude(mean_end_c)

    def _weld(self, progress: Progress) -> float:
        """Step until the arc is out and the sheet is solid; the mean when it goes out, °C."""
        problem, path, records = self.problem, self.path, self.records
        steady = problem.arc.train.is_steady
        large_s = min(_LARGE_STEP_S, _LARGE_SHARE * self.wide.max_step_s)
        segments = _divide_period(problem.arc, self.step_s, large_s)
        weld_s, frame_s = path.max_weld_s, path.max_weld_s / (_WELD_FRAMES * problem.frames)
        next_frame = next_pool = reported = 0.0
        hot, mean_end_c = self.metal.find_enthalpy(NARROW_ABOVE_C), math.nan
        for substeps, ends_phase in itertools.cycle(segments):
            self._step(substeps)
            now, burning = self.now_s, path.is_burning(self.now_s)
            if burning and (ends_phase or now >= next_pool):
                records.record_pool(now, self.window)
                next_pool = now + (_POOL_EVERY_S if steady else math.inf)
            if now >= next_frame and (ends_phase or steady or not burning):
                records.record_frame(now, self.window)
                next_frame = now + frame_s
            if path.moving_from_s is None:
                self._start_when_molten()
            if now - reported > weld_s / 50:
                reported = now
                progress(min(0.95, 0.95 * now / weld_s))
            if not burning:
                mean_end_c = self.wide.find_mean_c() if math.isnan(mean_end_c) else mean_end_c
                last_s = path.stopped_s + problem.max_after_s
                if self.window.enthalpy.max() <= hot or now >= last_s:
                    break
        return mean_end_c

    def _step(self, substeps: int) -> None:
        """Step the narrow columns, then the wide ones for the same time."""
        window, wide, before = self.window, self.wide, self.now_s
        seconds = substeps * self.step_s
        jet_mm = self.path.find_jet_mm(before)
        self.input_j += window.step(
            substeps,
            before,
            self.path,
            wide,
            self.losses,
            lambda time_s: self.records.record_probes(time_s, window),
        )
        self.now_s += seconds
        if not window.complete:
            wide.step(seconds, self.losses, jet_mm, window.covered)
        window.settle(wide)
        self.records.record_step(self.now_s, window)
        drop, grow = window.find_move(self.path.arc_mm)
        if drop or grow:
            self.records.save_window(window)
            window.move(drop, grow, wide)

    def _start_when_molten(self) -> None:
        """Let the arc move as soon as the pool is wide enough, or the time is over."""
        width, _ = self.records.measure_pool(self.window)
        arc = self.problem.arc
        if width >= arc.start_width_mm or self.now_s >= arc.max_start_s:
            self.path.moving_from_s = self.now_s

    def _cool(self) -> None:
        """Step the sheet as wide columns until it is cool."""
        problem, wide = self.problem, self.wide
        self.records.save_window(self.window)
        until = self.metal.find_enthalpy(problem.until_c)
        last_s = self.path.stopped_s + problem.max_after_s
        step = _LARGE_STEP_S
        next_frame, gap = self.now_s, self.path.max_weld_s / (_WELD_FRAMES * problem.frames)
        for number in itertools.count(1):
            if wide.enthalpy.max() <= until or self.now_s >= last_s:
                break
            jet_mm = self.path.find_jet_mm(self.now_s)
            wide.step(step, self.losses, jet_mm, NO_COLUMNS)
            self.now_s += step
            self.records.record_step(self.now_s, None)
            if self.now_s >= next_frame and len(self.records.frames) < problem.frames:
                self.records.record_frame(self.now_s, None)
                gap *= _FRAME_GROWTH
                next_frame = self.now_s + gap
            if number % _EQUAL_STEPS == 0:
                step = min(wide.max_step_s, 2 * step)

    def _conclude(self, mean_end_c: float) -> Outcome:
        """Return the calculated field."""
        records, losses, find = self.records, self.losses, self.metal.find_temperature_c
        stored = self.wide.count_energy() - self.stored_j
        times, values = np.array(records.maxima).T
        history = np.array(records.history)
        history[:, 1:] = find(history[:, 1:])
        peak, front, back = (
            (narrow, np.repeat(wide, self.along.divided, axis=0))
            for narrow, wide in (
                (records.peak, records.wide_peak),
                (records.front, records.wide_front),
                (records.back, records.wide_back),
            )
        )
        return Outcome(
            problem=self.problem,
            across=self.mesh.across,
            along=self.along,
            step_s=self.step_s,
            moving_from_s=self.path.moving_from_s or 0.0,
            stopped_s=self.path.stopped_s,
            end_s=self.now_s,
            input_j=self.input_j,
            barred_j=losses.barred_j,
            lost_j=losses.lost_j,
            balance=(stored + losses.lost_j - self.input_j) / max(self.input_j, 1e-9),
            mean_end_c=mean_end_c,
            peak_c=find(np.maximum(*peak)),
            front_c=find_tint_temperature_c(front[0] + front[1]),
            back_c=find_tint_temperature_c(back[0] + back[1]),
            max_at_s=times,
            max_c=find(values),
            pools=tuple(records.pools),
            frames=tuple(records.frames),
            history=history,
        )
