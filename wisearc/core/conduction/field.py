"""The field in time: small steps on fine columns around the arc, larger ones elsewhere.

A step is explicit along the seam and implicit across it, with a constant diffusivity in the
implicit part (Rosenbrock, of second order for constant properties). The fine columns move with the
arc. The exchange between fine and coarse columns is counted once, so that no energy is lost.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from ..errors import InputError
from ..physics.heat import AMBIENT_C
from .grid import Across, Along, build_across, build_along
from .metal import Floats
from .outcome import Frame, Outcome, PoolAt
from .problem import Arc, Problem
from .tint import calculate_oxide_growth, find_tint_temperature_c

Indices = NDArray[np.intp]

# Share of the largest stable explicit step.
_SAFETY = 0.9
# Substeps between two records of the peak, and between two counts of the losses.
_PEAK_EVERY, _LOSS_EVERY = 4, 16
_COARSE_STEP_S, _MAX_COARSE_STEP_S = 0.35, 4.0
# Columns kept in front of the arc and behind it, coarse ones. Behind, a column stays fine while it
# is hotter than this.
_AHEAD, _BEHIND, _FINE_ABOVE_C = 2, 5, 1000.0
# A sheet with fewer columns is fine throughout.
_ALL_FINE_COLUMNS = 14
# The Gaussian is cut off at this many spreads.
_CUT = 4.5
# Between two records of a steady pool, s.
_POOL_EVERY_S = 0.5
# The coarse columns beside the window are recorded once in so many coarse steps.
_COARSE_RECORD = 5
_NO_COLUMNS: Indices = np.empty(0, dtype=np.intp)
MAX_SUBSTEPS = 120_000
GLOW_C, SENSITISING_C = 525.0, 600.0

Progress = Callable[[float], None]


class TooLong(InputError):
    """A seam that takes too many steps."""


class _Clock(Struct):
    """The time s, where the arc is mm, and when it started to move, s, or None."""

    now_s: float = 0.0
    arc_mm: float = 0.0
    moving_from_s: float | None = None


def run_field(problem: Problem, progress: Progress | None = None) -> Outcome:
    """Calculate the field of a seam from the start of the arc until it is cool.

    Of second order in space, and of first order in time along the seam; the step is a share of the
    square of the grid, so that the error falls with the square of the grid.

    Args:
        problem: The seam.
        progress: Called with the finished share, 0–1, several times a second. It may raise an
            error to stop.

    Returns:
        What the field shows.

    Raises:
        TooLong: The seam takes more than `MAX_SUBSTEPS` steps.
    """
    run = _Run(problem)
    return run.calculate(progress or (lambda share: None))


def _divide_period(arc: Arc, step_s: float, coarse_s: float) -> tuple[tuple[int, bool], ...]:
    """Return the substeps of each coarse step of a cycle, and whether a phase of it ends there.

    A steady arc has equal coarse steps.
    """
    if arc.train.is_steady:
        return ((max(1, round(coarse_s / step_s)), False),)
    period = 1 / arc.train.rate_pps
    parts: list[tuple[int, bool]] = []
    for phase in (arc.train.on * period, (1 - arc.train.on) * period):
        substeps = max(1, round(phase / step_s))
        pieces = max(1, math.ceil(phase / (1.5 * coarse_s)))
        cuts = [round(substeps * i / pieces) for i in range(pieces + 1)]
        sizes = [b - a for a, b in itertools.pairwise(cuts) if b > a]
        parts += [(size, i == len(sizes) - 1) for i, size in enumerate(sizes)]
    return tuple(parts)


class _Run:
    """The state of one calculation."""

    def __init__(self, problem: Problem) -> None:
        self.problem, self.metal = problem, problem.metal
        self.across: Across = build_across(problem)
        self.along: Along = build_along(problem)
        self.nodes = len(self.across.distance_mm)
        self.start_mm = 0.0 if problem.closed else problem.before_mm + problem.inset_mm
        self.path_mm = problem.length_mm - (0.0 if problem.closed else 2 * problem.inset_mm)
        fine = self.along.fine_mm
        step = _SAFETY * fine**2 / (2 * self.metal.max_a)
        if not problem.arc.train.is_steady:
            # A whole number of steps in a cycle, so that the phases do not drift.
            period = 1 / problem.arc.train.rate_pps
            step = period / math.ceil(period / step)
        self.step_s = step
        self.segments: tuple[tuple[int, bool], ...] = ((1, False),)
        arc = problem.arc
        arc_s = self.path_mm / arc.travel_mm_s + arc.taper_s + arc.max_start_s
        if arc_s / self.step_s > MAX_SUBSTEPS:
            raise TooLong(
                "travel_mm_s",
                arc.travel_mm_s,
                f"makes a weld of {arc_s:.0f} s, and the field calculates {MAX_SUBSTEPS} steps of "
                f"{1000 * self.step_s:.1f} ms. Shorten the seam, or use a coarser grid",
            )
        self.arc_s = arc_s
        columns = self.along.columns
        first = self.metal.find_enthalpy(problem.start_c)
        self.coarse = np.full((columns, self.nodes), first)
        self.peak = np.full((columns * self.along.divided, self.nodes), first)
        self.front = np.zeros_like(self.peak)
        self.back = np.zeros_like(self.peak)
        # The same records of the columns that are coarse.
        self.coarse_peak = self.coarse.copy()
        self.coarse_front, self.coarse_back = (np.zeros_like(self.coarse) for _ in range(2))
        self.recorded_s = 0.0
        waits = problem.arc.max_start_s > 0
        self.clock = _Clock(arc_mm=self.start_mm, moving_from_s=None if waits else 0.0)
        self.input_j = self.lost_j = self.barred_j = 0.0
        self.stored_j = self._count_energy()
        self.pools: list[PoolAt] = []
        self.frames: list[Frame] = []
        self.history: list[tuple[float, ...]] = []
        self.maxima: list[tuple[float, float]] = []
        self._prepare_tables()
        coarse_s = min(_COARSE_STEP_S, 0.65 * self._max_coarse_step_s())
        self.segments = _divide_period(problem.arc, step, coarse_s)
        self._open_window()

    # --- the window of fine columns

    def _prepare_tables(self) -> None:
        """Prepare the tables and the matrices of a step."""
        fine, metal, across = self.along.fine_mm, self.metal, self.across
        self.share = self.step_s / fine**2
        count = len(metal.theta) - 1
        self.scale = count / metal.top
        self.theta_table = (metal.theta[1:] + metal.theta[:-1]) / 2
        self.phi_table = self.theta_table * self.share
        self.hot_table = (metal.temperature_c[1:] + metal.temperature_c[:-1]) / 2
        self.loss_table = (metal.face_loss[1:] + metal.face_loss[:-1]) / 2
        self.oxide_table = calculate_oxide_growth(self.hot_table)
        # A cold cell loses nothing.
        self.hot_table[0], self.loss_table[0] = AMBIENT_C, 0.0
        self.matrix = across.flow / across.section_mm2 * fine**2 - 2 * np.eye(self.nodes)
        self.per_face = across.face_mm / across.section_mm2
        system = np.eye(self.nodes) - 0.5 * self.step_s * metal.max_a * (
            across.flow / across.section_mm2
        )
        self.damping = np.linalg.inv(system)
        self.reach = 2 / (1 + self.along.divided)
        self.flow = across.flow / across.section_mm2
        self.loads = across.loads / across.section_mm2
        self.implicit: dict[float, Floats] = {}
        self.under_bar = across.barred * self.per_face
        self.under_jet = (
            self.problem.jet_w_mm2k * self.per_face * (across.distance_mm < self.problem.cover_mm)
        )
        self.has_bars = bool(self.problem.contact_w_mm2k and self.under_bar.any())

    def _open_window(self) -> None:
        """Make the first columns fine."""
        columns = self.along.columns
        self.whole = columns < _ALL_FINE_COLUMNS
        if self.whole:
            first, count = 0, columns
        else:
            at = int(self.start_mm / self.along.width_mm)
            first = at - _BEHIND if self.problem.closed else max(0, at - _BEHIND)
            count = at + _AHEAD + 1 - first
        self.first, self.count = first, count
        self.fine = np.repeat(self.coarse[self._covered()], self.along.divided, axis=0)
        self._allocate()

    def _covered(self) -> Indices:
        """Return the coarse columns that are fine, in order along the seam."""
        covered: Indices = np.arange(self.first, self.first + self.count) % self.along.columns
        return covered

    def _allocate(self) -> None:
        """Allocate the buffers of a step for the window."""
        rows = self.fine.shape[0]
        self.scaled = np.empty_like(self.fine)
        self.index = np.empty(self.fine.shape, dtype=np.intp)
        self.phi = np.empty((rows + 2, self.nodes))
        self.change = np.empty_like(self.fine)
        self.left_sum, self.right_sum = np.zeros(self.nodes), np.zeros(self.nodes)
        fine = self.along.fine_mm
        self.column_mm = (self.first * self.along.divided + np.arange(rows) + 0.5) * fine
        self.fine_rows = (self.first * self.along.divided + np.arange(rows)) % len(self.peak)
        self.window_peak = self.peak[self.fine_rows]
        self.window_front = self.front[self.fine_rows]
        self.window_back = self.back[self.fine_rows]

    def _save_records(self) -> None:
        """Save the records of the window in those of the seam."""
        self.peak[self.fine_rows] = self.window_peak
        self.front[self.fine_rows] = self.window_front
        self.back[self.fine_rows] = self.window_back

    def _move_window(self) -> None:
        """Move the window so that enough columns lie ahead of the arc."""
        if self.whole:
            return
        columns, closed = self.along.columns, self.problem.closed
        at = int(self.clock.arc_mm / self.along.width_mm)
        last = self.first + self.count - 1
        wanted = at + _AHEAD
        if not closed:
            wanted = min(wanted, columns - 1)
        hot = self.metal.find_enthalpy(_FINE_ABOVE_C)
        divided = self.along.divided
        drop = 0
        while (
            self.first + drop < at - _BEHIND
            and self.fine[drop * divided : (drop + 1) * divided].max() < hot
        ):
            drop += 1
        grow = min(max(0, wanted - last), columns - 1 - (self.count - drop))
        if not drop and not grow:
            return
        self._save_records()
        kept = self.fine[drop * divided :]
        fresh = [self._refine(self.first + self.count + i) for i in range(grow)]
        self.first, self.count = self.first + drop, self.count - drop + grow
        self.fine = np.concatenate([kept, *fresh]) if fresh else kept.copy()
        self._allocate()

    def _refine(self, column: int) -> Floats:
        """Return a coarse column as fine ones, with the slope of its neighbours."""
        columns = self.along.columns
        enthalpy = self.coarse[column % columns]
        if self.problem.closed:
            before, after = self.coarse[(column - 1) % columns], self.coarse[(column + 1) % columns]
        else:
            before = self.coarse[max(0, column - 1)]
            after = self.coarse[min(columns - 1, column + 1)]
        to_left, to_right = enthalpy - before, after - enthalpy
        slope = np.where(
            to_left * to_right > 0,
            np.sign(to_left) * np.minimum(abs(to_left), abs(to_right)),
            0.0,
        )
        divided = self.along.divided
        places = (np.arange(divided) + 0.5) / divided - 0.5
        refined: Floats = enthalpy + places[:, None] * slope
        return refined

    # --- the arc

    def _charge(self, weld_s: Floats) -> Floats:
        """Return the peak-seconds that the pulse has given at times from its start, s."""
        train = self.problem.arc.train
        if train.is_steady:
            return weld_s * train.mean
        period = 1 / train.rate_pps
        full = np.floor(weld_s / period)
        rest = weld_s - full * period
        peak = train.on * period
        inside = np.minimum(rest, peak) + train.background * np.maximum(0.0, rest - peak)
        charged: Floats = full * period * train.mean + inside
        return charged

    def _plan_arc(self, substeps: int) -> tuple[Floats, Floats]:
        """Return where the arc is in each substep, mm, and its energy in it, J."""
        clock, arc = self.clock, self.problem.arc
        times = clock.now_s + self.step_s * np.arange(substeps + 1)
        watts = arc.efficiency * arc.voltage_v * arc.peak_a
        stopped, moving = self.stopped_s, clock.moving_from_s
        charge = self._charge(np.minimum(times, stopped))
        if arc.taper_s:
            tapered = np.clip((times - stopped) / arc.taper_s, 0.0, 1.0)
            charge = charge + arc.train.mean * arc.taper_s * (tapered - tapered**2 / 2)
        middle = times[:-1] + self.step_s / 2
        travelled = np.zeros(substeps) if moving is None else arc.travel_mm_s * (middle - moving)
        places: Floats = self.start_mm + np.clip(travelled, 0.0, self.path_mm)
        return places, watts * np.diff(charge)

    @property
    def stopped_s(self) -> float:
        """Return when the arc stops to travel, s, infinite before it moves."""
        moving = self.clock.moving_from_s
        if moving is None:
            return math.inf
        return float(moving + self.path_mm / self.problem.arc.travel_mm_s)

    @property
    def burning(self) -> bool:
        """Return whether the arc burns."""
        return self.clock.now_s < self.stopped_s + self.problem.arc.taper_s - 1e-9

    # --- steps

    def calculate(self, progress: Progress) -> Outcome:
        """Step to the end, and return what the field shows."""
        problem, arc = self.problem, self.problem.arc
        frame_s = 1.4 * self.arc_s / problem.frames
        next_frame = next_pool = reported = 0.0
        hot = self.metal.find_enthalpy(_FINE_ABOVE_C)
        number = 0
        while self.burning or self.fine.max() > hot:
            substeps, ends_phase = self.segments[number % len(self.segments)]
            number += 1
            self._step_fine(substeps)
            self._step_coarse(substeps * self.step_s, substeps)
            self._record()
            self._move_window()
            now = self.clock.now_s
            if self.burning and (ends_phase or now >= next_pool):
                self._record_pool()
                next_pool = now + (_POOL_EVERY_S if arc.train.is_steady else math.inf)
            if now >= next_frame and (ends_phase or arc.train.is_steady or not self.burning):
                self._record_frame()
                next_frame = now + frame_s
            if self.clock.moving_from_s is None:
                self._start_when_molten()
            if now - reported > self.arc_s / 50:
                reported = now
                progress(min(0.95, 0.95 * now / self.arc_s))
        self._close_window()
        step, limit = _COARSE_STEP_S, self._max_coarse_step_s()
        until = self.metal.find_enthalpy(problem.until_c)
        next_frame, gap = self.clock.now_s, frame_s
        last_s = self.stopped_s + problem.max_after_s
        while self.coarse.max() > until and self.clock.now_s < last_s:
            self._step_coarse(step, 0)
            self._record()
            if self.clock.now_s >= next_frame and len(self.frames) < problem.frames:
                self._record_frame()
                gap *= 1.25
                next_frame = self.clock.now_s + gap
            step = min(limit, 2 * step) if len(self.maxima) % 12 == 0 else step
        progress(1.0)
        return self._conclude()

    def _max_coarse_step_s(self) -> float:
        """Return the largest coarse step that is stable along the seam and to the bars, s."""
        conducted = 0.4 * self.along.width_mm**2 / self.metal.cold_a
        bars_1_s = self.problem.contact_w_mm2k * self.per_face.max() / self.metal.c_mean
        cooled = 0.5 / (bars_1_s + 1e-9)
        return float(min(_MAX_COARSE_STEP_S, conducted, cooled))

    def _step_fine(self, substeps: int) -> None:
        """Step the window for one coarse step."""
        left, right = self._get_neighbours()
        phi, fine, change = self.phi, self.fine, self.change
        inner, first, last = phi[1:-1], phi[1], phi[-2]
        above, below, ghost, other = phi[2:], phi[:-2], phi[0], phi[-1]
        wraps = self.whole and self.problem.closed
        keep = 1 - self.reach
        from_left = None if left is None else self.reach * left
        from_right = None if right is None else self.reach * right
        self.left_sum[:] = 0.0
        self.right_sum[:] = 0.0
        places, energies = self._plan_arc(substeps)
        rows, weights = self._spread_arc(places, energies)
        self.input_j += float(energies.sum())
        took_loss = 0
        for n in range(substeps):
            np.multiply(fine, self.scale, out=self.scaled)
            np.copyto(self.index, self.scaled, casting="unsafe")
            self.phi_table.take(self.index, mode="clip", out=inner)
            if wraps:
                ghost[:] = last
                other[:] = first
            else:
                if from_left is None:
                    ghost[:] = first
                else:
                    np.multiply(first, keep, out=ghost)
                    ghost += from_left
                    self.left_sum += first
                if from_right is None:
                    other[:] = last
                else:
                    np.multiply(last, keep, out=other)
                    other += from_right
                    self.right_sum += last
            np.matmul(inner, self.matrix, out=change)
            change += above
            change += below
            if energies[n]:
                change[rows] += weights[n] * self.loads
            np.matmul(change, self.damping, out=self.scaled)
            fine += self.scaled
            if n % _LOSS_EVERY == _LOSS_EVERY - 1 or n == substeps - 1:
                self.clock.arc_mm = float(places[n])
                self._cool((n + 1 - took_loss) * self.step_s)
                took_loss = n + 1
            if n % _PEAK_EVERY == _PEAK_EVERY - 1 or n == substeps - 1:
                np.maximum(self.window_peak, fine, out=self.window_peak)
                if self.problem.probes_mm:
                    self._record_probes(self.clock.now_s + (n + 1) * self.step_s)
        self.clock.now_s += substeps * self.step_s
        self.left_phi, self.right_phi = left, right

    def _spread_arc(self, places: Floats, energies: Floats) -> tuple[slice, Floats]:
        """Return the rows that the arc heats, and their heat in J/mm (substeps, rows, 1)."""
        spread, fine = self.problem.arc.spread_mm, self.along.fine_mm
        first = self.column_mm[0] - fine / 2
        if self.problem.closed and self.whole:
            # Once round: the arc is back at the first column.
            places = first + (places - first) % (fine * len(self.column_mm))
        half = _CUT * spread
        low = max(0, int((places.min() - half - first) / fine))
        high = min(len(self.column_mm), int((places.max() + half - first) / fine) + 2)
        away = self.column_mm[low:high] - places[:, None]
        weights = np.exp(-(away**2) / (2 * spread**2))
        weights *= (energies / (weights.sum(axis=1) * fine))[:, None]
        return slice(low, high), weights[:, :, None]

    def _get_neighbours(self) -> tuple[Floats | None, Floats | None]:
        """Return φ of the coarse columns beside the window, None at an edge of the sheet."""
        if self.whole:
            return None, None
        columns, closed = self.along.columns, self.problem.closed
        before, after = self.first - 1, self.first + self.count
        neighbours: list[Floats | None] = []
        for column in (before, after):
            if closed or 0 <= column < columns:
                enthalpy = self.coarse[column % columns]
                index = (enthalpy * self.scale).astype(np.intp)
                neighbours.append(self.phi_table.take(index, mode="clip"))
            else:
                neighbours.append(None)
        return neighbours[0], neighbours[1]

    def _cool(self, seconds: float) -> None:
        """Subtract the losses of the window, for a time s."""
        loss = self._lose(self.fine, self.column_mm, seconds, _NO_COLUMNS)
        self.fine -= loss

    def _lose(
        self, enthalpy: Floats, column_mm: Floats, seconds: float, covered: Indices
    ) -> Floats:
        """Return the loss of cells in a time s, J/mm³: air, radiation, the jet of gas and bars.

        Args:
            enthalpy: Enthalpies (columns, nodes).
            column_mm: Middles of the columns, mm.
            seconds: The time, s.
            covered: Columns that are counted elsewhere.
        """
        problem, across = self.problem, self.across
        width = self.along.fine_mm if enthalpy is self.fine else self.along.width_mm
        index = (enthalpy * self.scale).astype(np.intp)
        air = self.loss_table.take(index, mode="clip")
        loss = air * (2 * self.per_face)
        jet = problem.jet_w_mm2k > 0 and self._has_gas()
        if self.has_bars or jet:
            above = self.hot_table.take(index, mode="clip")
            above -= AMBIENT_C
        if self.has_bars:
            drawn = problem.contact_w_mm2k * above
            drawn -= air
            drawn *= self.under_bar
            loss += drawn
            drawn[covered] = 0.0
            self.barred_j += float((drawn @ across.section_mm2).sum()) * seconds * width
        if jet:
            rows = abs(column_mm - self.clock.arc_mm) < problem.cover_mm
            above *= self.under_jet
            loss += above * rows[:, None]
        loss[covered] = 0.0
        loss *= seconds
        self.lost_j += float((loss @ across.section_mm2).sum()) * width
        return loss

    def _has_gas(self) -> bool:
        """Return whether the gas of the cup flows."""
        after = self.problem.arc.taper_s + self.problem.postflow_s
        return self.clock.now_s < self.stopped_s + after

    def _step_coarse(self, seconds: float, substeps: int) -> None:
        """Step the coarse columns for a time s, and take over what the window did in substeps."""
        if not substeps:
            self.clock.now_s += seconds
        if self.whole and substeps:
            self.coarse[:] = self._average()
            return
        if seconds not in self.implicit:
            system = np.eye(self.nodes) - 0.5 * seconds * self.metal.cold_a * self.flow
            self.implicit[seconds] = np.linalg.inv(system)
        index = (self.coarse * self.scale).astype(np.intp)
        theta = self.theta_table.take(index, mode="clip")
        change = (theta @ self.flow) * seconds
        share = seconds / self.along.width_mm**2
        flux = (theta[1:] - theta[:-1]) * share
        covered = self._covered() if substeps else _NO_COLUMNS
        if substeps:
            # The faces of the fine columns are counted by `_exchange`.
            flux[max(0, self.first - 1) : self.first + self.count] = 0.0
            if self.problem.closed:
                flux[(covered[covered < len(flux)])] = 0.0
                flux[(covered[covered > 0]) - 1] = 0.0
        change[:-1] += flux
        change[1:] -= flux
        if self.problem.closed and not {0, self.along.columns - 1} & set(covered.tolist()):
            round_it = (theta[0] - theta[-1]) * share
            change[-1] += round_it
            change[0] -= round_it
        change = change @ self.implicit[seconds]
        change[covered] = 0.0
        change -= self._lose(self.coarse, self._coarse_mm(), seconds, covered)
        self.coarse += change
        if substeps:
            self._exchange(substeps)
            self.coarse[covered] = self._average()

    def _coarse_mm(self) -> Floats:
        """Return the middles of the coarse columns, mm."""
        middles: Floats = (np.arange(self.along.columns) + 0.5) * self.along.width_mm
        return middles

    def _exchange(self, substeps: int) -> None:
        """Give the coarse neighbours what the window took from them."""
        columns, parts = self.along.columns, self.along.divided
        for phi, total, column in (
            (self.left_phi, self.left_sum, self.first - 1),
            (self.right_phi, self.right_sum, self.first + self.count),
        ):
            if phi is not None:
                taken = self.reach * (phi * substeps - total)
                self.coarse[column % columns] -= taken / parts

    def _average(self) -> Floats:
        """Return the coarse means of the window."""
        shape = (self.count, self.along.divided, self.nodes)
        means: Floats = self.fine.reshape(shape).mean(axis=1)
        return means

    def _close_window(self) -> None:
        """Continue with coarse columns only."""
        self.coarse[self._covered()] = self._average()
        self._save_records()
        self.whole = False
        self.count = 0
        self.fine = np.full((1, self.nodes), self.metal.find_enthalpy(AMBIENT_C))

    # --- records

    def _record(self) -> None:
        """Record the hottest place, the probes, and the growth of oxide."""
        now = self.clock.now_s
        seconds, self.recorded_s = now - self.recorded_s, now
        hottest = self.coarse.max() if not self.count else self.fine.max()
        self.maxima.append((now, float(hottest)))
        if self.count:
            self._tint(self.window_front, self.window_back, self.fine, self.column_mm, seconds)
        if not self.count or (not self.whole and len(self.maxima) % _COARSE_RECORD == 0):
            if self.count:
                seconds *= _COARSE_RECORD
            rows = np.ones(self.along.columns, dtype=bool)
            rows[self._covered()] = False
            outside = self.coarse[rows]
            front, back = np.zeros_like(outside), np.zeros_like(outside)
            self._tint(front, back, outside, self._coarse_mm()[rows], seconds)
            self.coarse_front[rows] += front
            self.coarse_back[rows] += back
            self.coarse_peak[rows] = np.maximum(self.coarse_peak[rows], outside)
        if self.problem.probes_mm and not self.count:
            self._record_probes(now)

    def _record_probes(self, now_s: float) -> None:
        """Record the probes at a time, s."""
        places = self.problem.probes_mm
        self.history.append((now_s, *(self._probe(x, y) for x, y in places)))

    def _tint(
        self, front: Floats, back: Floats, enthalpy: Floats, column_mm: Floats, seconds: float
    ) -> None:
        """Add the growth of oxide in a time s: on the front only outside the cover of the cup."""
        index = (enthalpy * self.scale).astype(np.intp)
        grown = self.oxide_table.take(index, mode="clip")
        grown *= seconds
        back += grown
        if self._has_gas():
            away = (column_mm[:, None] - self.clock.arc_mm) ** 2 + self.across.distance_mm**2
            grown[away <= self.problem.cover_mm**2] = 0.0
        front += grown

    def _probe(self, x_mm: float, y_mm: float) -> float:
        """Return the temperature at a place, °C: x from the start of the seam, y across it."""
        at = self.start_mm + x_mm
        profile = self._read_profile(at)
        return read_across(self.across, self.problem, profile, y_mm)

    def _read_profile(self, at_mm: float) -> Floats:
        """Return the temperatures across the seam at a place along it, °C."""
        if self.count and self.column_mm[0] <= at_mm <= self.column_mm[-1]:
            rows, middles = self.fine, self.column_mm
        else:
            rows, middles = self.coarse, self._coarse_mm()
        place = float(np.interp(at_mm, middles, np.arange(len(middles))))
        low = min(len(middles) - 1, int(place))
        high = min(len(middles) - 1, low + 1)
        part = place - low
        return self.metal.find_temperature_c(rows[low] * (1 - part) + rows[high] * part)

    def _start_when_molten(self) -> None:
        """Let the arc move as soon as the pool is wide enough, or the time is over."""
        width, _ = self._measure_pool()
        arc = self.problem.arc
        if width >= arc.start_width_mm or self.clock.now_s >= arc.max_start_s:
            self.clock.moving_from_s = self.clock.now_s

    def _measure_pool(self) -> tuple[float, float]:
        """Return the width and the length of the pool now, mm."""
        temperature = self.metal.find_temperature_c(self.fine)
        if temperature.max() < self.metal.liquidus_c:
            return 0.0, 0.0
        width = measure_widths_mm(self.across, self.problem, temperature).max()
        return float(width), _measure_length_mm(
            temperature[:, 0], self.along.fine_mm, self.metal.liquidus_c
        )

    def _record_pool(self) -> None:
        """Record the pool."""
        width, length = self._measure_pool()
        self.pools.append(
            PoolAt(self.clock.now_s, self.clock.arc_mm - self.start_mm, width, length)
        )

    def _record_frame(self) -> None:
        """Record a picture of the field."""
        find = self.metal.find_temperature_c
        window = find(self.fine) if self.count else None
        self.frames.append(
            Frame(
                time_s=self.clock.now_s,
                arc_mm=self.clock.arc_mm - self.start_mm,
                burning=self.burning,
                gas=self._has_gas(),
                coarse_c=find(self.coarse).astype(np.float32),
                first_column=self.first if self.count else 0,
                fine_c=None if window is None else window.astype(np.float32),
            )
        )

    def _count_energy(self) -> float:
        """Return the energy in the sheet, J."""
        section = self.across.section_mm2
        return float((self.coarse * section).sum()) * self.along.width_mm

    def _conclude(self) -> Outcome:
        """Return what the field shows."""
        stored = self._count_energy() - self.stored_j
        balance = (stored + self.lost_j - self.input_j) / max(self.input_j, 1e-9)
        find = self.metal.find_temperature_c
        times, values = np.array(self.maxima).T
        peak, front, back = (
            np.repeat(record, self.along.divided, axis=0)
            for record in (self.coarse_peak, self.coarse_front, self.coarse_back)
        )
        return Outcome(
            problem=self.problem,
            across=self.across,
            along=self.along,
            step_s=self.step_s,
            moving_from_s=self.clock.moving_from_s or 0.0,
            stopped_s=self.stopped_s,
            end_s=self.clock.now_s,
            input_j=self.input_j,
            barred_j=self.barred_j,
            lost_j=self.lost_j,
            balance=balance,
            peak_c=find(np.maximum(self.peak, peak)),
            front_c=find_tint_temperature_c(self.front + front),
            back_c=find_tint_temperature_c(self.back + back),
            max_at_s=times,
            max_c=find(values),
            pools=tuple(self.pools),
            frames=tuple(self.frames),
            history=np.array(self.history),
        )


def read_across(across: Across, problem: Problem, profile: Floats, y_mm: float) -> float:
    """Return a value of a profile across the seam, at a signed distance from it.

    Args:
        across: The nodes across the seam.
        problem: The seam.
        profile: Values at the nodes (n).
        y_mm: Distance, mm, positive on the first member.
    """
    wanted = 1 if y_mm >= 0 else -1
    sides = [strip.side for strip in problem.strips]
    number = next((i for i, side in enumerate(sides, 1) if side in (0, wanted)), 1)
    chosen = np.flatnonzero((across.strip == number) | (across.strip == 0))
    return float(np.interp(abs(y_mm), across.distance_mm[chosen], profile[chosen]))


def measure_widths_mm(across: Across, problem: Problem, temperature: Floats) -> Floats:
    """Return the melted width of each column, mm, over the strips that the arc heats.

    Args:
        across: The nodes across the seam.
        problem: The seam.
        temperature: Temperatures °C, shape (columns, nodes).
    """
    liquidus = problem.metal.liquidus_c
    widths = np.zeros(len(temperature))
    for number, strip in enumerate(problem.strips, start=1):
        if strip.heat_share <= 0:
            continue
        chosen = np.flatnonzero((across.strip == number) | (across.strip == 0))
        values, distance = temperature[:, chosen], across.distance_mm[chosen]
        melted = values >= liquidus
        # The first node that is not molten, counted from the seam.
        solid = np.where(melted.all(axis=1), len(distance), np.argmin(melted, axis=1))
        rows = np.arange(len(values))
        inside = np.clip(solid - 1, 0, len(distance) - 2)
        hot, cold = values[rows, inside], values[rows, inside + 1]
        part = np.clip((hot - liquidus) / np.maximum(hot - cold, 1e-9), 0, 1)
        reach = distance[inside] + part * (distance[inside + 1] - distance[inside])
        reach = np.where(solid == 0, 0.0, np.where(solid >= len(distance), distance[-1], reach))
        widths += strip.count * reach
    return widths


def _measure_length_mm(seam_c: Floats, step_mm: float, liquidus_c: float) -> float:
    """Return the length over which the seam is molten, mm."""
    melted = np.flatnonzero(seam_c >= liquidus_c)
    if not len(melted):
        return 0.0
    low, high = melted[0], melted[-1]
    length = float(high - low) * step_mm
    for inside, outside in ((low, low - 1), (high, high + 1)):
        if 0 <= outside < len(seam_c):
            hot, cold = seam_c[inside], seam_c[outside]
            length += step_mm * float((hot - liquidus_c) / max(hot - cold, 1e-9))
        else:
            length += step_mm / 2
    return length
