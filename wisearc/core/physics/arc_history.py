"""Heat in time of a complete seam: its start, pulse, taper and restart, its ends and its bars.

The closed form of `heat_in_time`, for a current that changes: each stretch of the arc is a sum of
instantaneous Gaussian sources. A free end of the sheet is an image of the source behind that end.
A seam that closes on itself is a row of images, one for each time round. So are the free edges
beside the seam. Chill bars are cold walls, which are images of alternating sign. The faces lose
heat at a rate.

Lengths mm, times s, speeds mm/s, currents A, temperatures °C. x is along the seam, y across it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from .heat import AMBIENT_C, ARC_EFFICIENCY
from .heat_in_time import SPREAD_MM, PulseTrain, Sheet
from .roots import find_crossing

Floats = NDArray[np.float64]

# Cycles before a moment that follow the pulse. Older ones count by their mean.
_PULSED_CYCLES = 8
# A step of the sum is at most this many widths of the spreading heat, and this much of its age.
_STEP_WIDTHS, _STEP_SHARE = 1.5, 1.2
_POINTS, _WEIGHTS = np.polynomial.legendre.leggauss(5)
# Heat that has spread wider than this part of the distance between images needs the next ones.
_IMAGES_REACH = 3.0
# The widest half of a pool, mm, and how often its limits are halved.
_MAX_HALF_MM, _HALVINGS = 20.0, 14
# Where a pool and red heat are searched for: behind the arc, ahead of it, and the step, mm.
_POOL_PLACES, _GLOW_PLACES = (6.0, 3.0, 0.25), (100.0, 8.0, 0.75)
MAX_AFTER_S, _EARLIEST_S = 600.0, 0.02


class Stretch(Struct, frozen=True):
    """A part of a weld with evenly changing current.

    From and to a time s, the current at both A, the place at its start mm, and the travel speed
    mm/s, which is 0 where the arc waits.
    """

    from_s: float
    to_s: float
    from_a: float
    to_a: float
    from_mm: float
    travel_mm_s: float = 0.0


class Boundaries(Struct, frozen=True):
    """What ends the sheet.

    Its two ends across the seam mm (minus infinity and infinity where it is endless), the length
    once round mm of a seam that closes on itself, and the loss of the faces 1/s. Beside the seam
    either the cold wall of bars or the free edge of the sheet, at ±mm.
    """

    ends_mm: tuple[float, float] = (-math.inf, math.inf)
    round_mm: float | None = None
    wall_mm: float | None = None
    loss_1_s: float = 0.0
    edge_mm: float | None = None


ENDLESS = Boundaries()


def list_stretches(
    train: PulseTrain,
    peak_a: float,
    travel_mm_s: float,
    length_mm: float,
    taper_s: float = 0.0,
    wait_s: float = 0.0,
    from_mm: float = 0.0,
    from_s: float = 0.0,
) -> tuple[Stretch, ...]:
    """Return the stretches of a seam: wait, weld, and taper in one place.

    Args:
        train: The pulse. The last cycles follow it, earlier ones its mean.
        peak_a: Peak current, A.
        travel_mm_s: Travel speed, mm/s.
        length_mm: Length of the seam, mm.
        taper_s: Time in which the mean current falls to nothing, s.
        wait_s: Time in which the arc waits for its pool, s.
        from_mm: Where it starts, mm.
        from_s: When it starts, s. A later seam on a warm sheet is a restart.
    """
    mean_a, moves_s = peak_a * train.mean, from_s + wait_s
    stops_s, stops_mm = moves_s + length_mm / travel_mm_s, from_mm + length_mm
    pulsed_s, phases = stops_s, []
    if not train.is_steady:
        period = 1 / train.rate_pps
        cycles = min(_PULSED_CYCLES, math.floor((stops_s - moves_s) / period))
        pulsed_s = stops_s - cycles * period
        for cycle in range(cycles):
            peak_s = pulsed_s + cycle * period
            turn_s = peak_s + train.on * period
            phases += [(peak_s, turn_s, peak_a)]
            phases += [(turn_s, peak_s + period, peak_a * train.background)]
    stretches = [Stretch(from_s, moves_s, mean_a, mean_a, from_mm)] if wait_s > 0 else []
    stretches += [
        Stretch(low, high, amps, amps, from_mm + travel_mm_s * (low - moves_s), travel_mm_s)
        for low, high, amps in ((moves_s, pulsed_s, mean_a), *phases)
        if high > low
    ]
    if taper_s > 0:
        stretches.append(Stretch(stops_s, stops_s + taper_s, mean_a, 0.0, stops_mm))
    return tuple(stretches)


class ArcHistory:
    """The temperatures that an arc leaves in a sheet, at any place and time."""

    def __init__(
        self, sheet: Sheet, stretches: Sequence[Stretch], boundaries: Boundaries = ENDLESS
    ) -> None:
        """Create the history of an arc.

        Args:
            sheet: The sheet.
            stretches: The stretches of the arc, in the order of time.
            boundaries: The ends of the sheet.
        """
        self.sheet, self.stretches, self.boundaries = sheet, tuple(stretches), boundaries
        self._watts = ARC_EFFICIENCY * sheet.voltage_v / (math.pi * sheet.rho_c * sheet.h_mm)

    @property
    def ends_s(self) -> float:
        """Return when the arc goes out, s."""
        return self.stretches[-1].to_s

    def find_arc_mm(self, now_s: float) -> float:
        """Return where the arc is at a time in s, or was last, mm.

        Args:
            now_s: The time, s.
        """
        last = [part for part in self.stretches if part.from_s <= now_s][-1]
        return last.from_mm + last.travel_mm_s * (min(now_s, last.to_s) - last.from_s)

    def calculate_c(self, x_mm: Floats, y_mm: Floats, now_s: float) -> Floats:
        """Return temperatures at a time, °C.

        Args:
            x_mm: Places along the seam, mm, of any shape.
            y_mm: Distances from it, mm, of the same shape.
            now_s: The time, s.

        References:
            Estimate: superposition of instantaneous sources in thin plate (Rosenthal 1941) with
            a Gaussian arc, and images for the ends of the sheet (Carslaw and Jaeger, from memory).
        """
        places, sharp, share = self._list_sources(now_s)
        along = np.zeros((*np.shape(x_mm), len(places)))
        for image in self._list_images(places, 1 / float(sharp.min())):
            along += np.exp(-((np.asarray(x_mm)[..., None] - image) ** 2) * sharp)
        across = self._reduce_across(np.asarray(y_mm)[..., None], sharp)
        rise: Floats = (along * across) @ share
        return AMBIENT_C + rise

    def _list_sources(self, now_s: float) -> tuple[Floats, Floats, Floats]:
        """Return the sources of a moment: place mm, sharpness 1/mm², and rise K at their place."""
        spread_s = SPREAD_MM**2 / (2 * self.sheet.a)
        places, ages, amp_seconds = [], [], []
        for part in self.stretches:
            if part.from_s >= now_s:
                break
            until = min(part.to_s, now_s)
            edges = self._divide_age(now_s - until, now_s - part.from_s, part.travel_mm_s)
            low, high = np.log(edges[:-1] + spread_s), np.log(edges[1:] + spread_s)
            half = (high - low)[:, None] / 2
            shifted = np.exp((high + low)[:, None] / 2 + half * _POINTS)
            age = shifted - spread_s
            passed = now_s - age - part.from_s
            slope = (part.to_a - part.from_a) / (part.to_s - part.from_s)
            amps = part.from_a + slope * passed
            places.append((part.from_mm + part.travel_mm_s * passed).ravel())
            ages.append(age.ravel())
            amp_seconds.append((amps * _WEIGHTS * half * shifted).ravel())
        age = np.concatenate(ages)
        sharp = 1 / (4 * self.sheet.a * age + 2 * SPREAD_MM**2)
        loss = np.exp(-self.boundaries.loss_1_s * age)
        return (
            np.concatenate(places),
            sharp,
            self._watts * np.concatenate(amp_seconds) * sharp * loss,
        )

    def _divide_age(self, youngest_s: float, oldest_s: float, travel_mm_s: float) -> Floats:
        """Return the ages, s, that divide a stretch: one step is no wider than its heat."""
        a, edges = self.sheet.a, [youngest_s]
        while edges[-1] < oldest_s - 1e-12:
            age = edges[-1]
            width = math.sqrt(4 * a * age + 2 * SPREAD_MM**2)
            step = _STEP_SHARE * (age + SPREAD_MM**2 / (2 * a))
            if travel_mm_s > 0:
                step = min(step, _STEP_WIDTHS * width / travel_mm_s)
            edges.append(min(oldest_s, age + step))
        return np.array(edges)

    def _list_images(self, places: Floats, max_spread_mm2: float) -> list[Floats]:
        """Return the places of the sources and of their images along the seam, mm."""
        start, end = self.boundaries.ends_mm
        reach = _IMAGES_REACH * math.sqrt(max_spread_mm2)
        if self.boundaries.round_mm is not None:
            apart = self.boundaries.round_mm
            turns = math.ceil(reach / apart)
            return [places + n * apart for n in range(-turns, turns + 1)]
        if math.isfinite(start) and math.isfinite(end):
            apart = 2 * (end - start)
            turns = math.ceil(reach / apart)
            shifts = [n * apart for n in range(-turns, turns + 1)]
            return [at + shift for shift in shifts for at in (places, 2 * start - places)]
        return [places, *(2 * at - places for at in (start, end) if math.isfinite(at))]

    def _reduce_across(self, y_mm: Floats, sharp: Floats) -> Floats:
        """Return how the heat falls across the seam, with the walls of bars or the free edges."""
        wall, edge = self.boundaries.wall_mm, self.boundaries.edge_mm
        border = edge if wall is None else wall
        if border is None:
            open_plate: Floats = np.exp(-(y_mm**2) * sharp)
            return open_plate
        turns = math.ceil(_IMAGES_REACH * math.sqrt(1 / float(sharp.min())) / (2 * border))
        total = np.zeros(np.broadcast_shapes(y_mm.shape, sharp.shape))
        for n in range(-turns, turns + 1):
            sign = 1 if wall is None else (-1) ** (n % 2)
            total += sign * np.exp(-((y_mm - 2 * n * border) ** 2) * sharp)
        # Between the walls no image makes it colder than they are.
        return np.maximum(total, 0.0) * (abs(y_mm) <= border)

    def find_width_mm(self, now_s: float) -> float:
        """Return the maximum width of the pool at a time, mm, or 0.

        Args:
            now_s: The time, s.
        """
        at, limit = self._list_places(now_s, _POOL_PLACES), self.sheet.liquidus_c
        molten = at[self.calculate_c(at, np.zeros_like(at), now_s) > limit]
        if not molten.size:
            return 0.0
        low, high = np.zeros_like(molten), np.full_like(molten, _MAX_HALF_MM)
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            inside = self.calculate_c(molten, middle, now_s) > limit
            low, high = np.where(inside, middle, low), np.where(inside, high, middle)
        return 2 * float(low.max())

    def _list_places(self, now_s: float, around: tuple[float, float, float]) -> Floats:
        """Return places along the seam around the arc, within the sheet, mm."""
        arc, (start, end), (behind, ahead, step) = (
            self.find_arc_mm(now_s),
            self.boundaries.ends_mm,
            around,
        )
        low, high = max(start, arc - behind), min(end, arc + ahead)
        return np.linspace(low, high, max(2, round((high - low) / step)))

    def find_glow_s(self, limit_c: float) -> float:
        """Return how long after the arc the seam stays above a temperature, s.

        Args:
            limit_c: The temperature, °C.
        """

        def find_inverse(log_s: float) -> float:
            now = self.ends_s + math.exp(log_s)
            at = self._list_places(now, _GLOW_PLACES)
            return -1 / float(self.calculate_c(at, np.zeros_like(at), now).max())

        ends = math.log(_EARLIEST_S), math.log(MAX_AFTER_S)
        return math.exp(find_crossing(-1 / limit_c, find_inverse, *ends))

    def find_max_c(self, now_s: float, y_mm: float) -> float:
        """Return the highest temperature beside the arc, °C.

        Args:
            now_s: The time, s.
            y_mm: Distance from the seam, mm.
        """
        at = self._list_places(now_s, _POOL_PLACES)
        return float(self.calculate_c(at, np.full_like(at, y_mm), now_s).max())


def find_start_s(
    sheet: Sheet,
    current_a: float,
    width_mm: float,
    max_s: float,
    before: Sequence[Stretch] = (),
    boundaries: Boundaries = ENDLESS,
) -> float:
    """Return how long an arc waits in one place until its pool has a width, s, or max_s.

    Args:
        sheet: The sheet.
        current_a: Current, A.
        width_mm: Width of the pool, mm.
        max_s: The longest time, s.
        before: An earlier seam that ends in this place, at 0 mm, and before the time 0.
        boundaries: The ends of the sheet.
    """

    def find_edge_c(seconds: float) -> float:
        wait = Stretch(0.0, seconds, current_a, current_a, 0.0)
        return -ArcHistory(sheet, (*before, wait), boundaries).find_max_c(seconds, width_mm / 2)

    return find_crossing(-sheet.liquidus_c, find_edge_c, _EARLIEST_S, max_s)
