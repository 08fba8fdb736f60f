"""Signals of a running arc: strike, current at its level, taper, stop, gas off.

Estimate: the thresholds. The memory does not grow with the time.
"""

from __future__ import annotations

from collections import deque

from msgspec import Struct, field

from ..physics.heat import ARC_VOLTAGE_V
from ..plan.plan import Plan
from .live import Live

# A shorter arc before the first long one is a tack weld.
MAX_TACK_S = 2.0
# The current is looked at in intervals of this length, so that a fast source costs no more.
INTERVAL_S = 0.02
# Its level is its maximum over this time, or over this number of pulse cycles.
LEVEL_S, LEVEL_CYCLES = 0.25, 1.15
# A faster pulse shows its peak within the time of a level.
MAX_CYCLE_S = 2.0
# The current is full at this share of the planned one; or, from this share on, when its level has
# changed by less than this over this time.
FULL_SHARE, MIN_FULL_SHARE, STEADY_SHARE, STEADY_S = 0.9, 0.4, 0.05, 0.6
# The voltage has settled when the means of two consecutive intervals of this length differ by less.
SETTLED_S, SETTLED_V = 0.3, 0.3
# Without a level after this time the seam continues, and the time of the pool is unknown.
LATE_S = 6.0
# A taper: the mean current of a cycle falls below this share of that of the seam for this time.
# Above the other share it was none.
TAPER_SHARE, TAPER_S, RISE_SHARE = 0.7, 0.1, 0.85
# The taper starts where the mean was last at this share of that of the seam.
TAPER_START_SHARE = 0.95
# Time constant of the mean of the seam, s.
SEAM_LEVEL_S = 2.0
# A shorter pause of the gas is a contact that bounces.
GAS_OFF_S = 0.3
MAX_SIGNALS = 600


class ArcSignal(Struct, frozen=True):
    """A signal: its kind, its moment s since the start of the trace, and the number of the strike.

    `part` counts the tapers of a strike, so that its number and kind name a signal.
    """

    kind: str
    at_s: float
    strike: int
    part: int = 0


class PlannedArc(Struct, frozen=True):
    """The arc that a source is expected to send.

    Voltage for readings without one V, current (with a pulse its peak) A, cycle time of a pulse s,
    or 0.
    """

    volts: float = ARC_VOLTAGE_V
    current_a: float = 0.0
    cycle_s: float = 0.0


def get_planned_arc(plan: Plan) -> PlannedArc:
    """Return the arc of a plan."""
    pulse = plan.pulse
    if not pulse.pulsed or not pulse.rate_pps:
        return PlannedArc(plan.heat.arc_voltage_v, plan.slopes.mean_a)
    return PlannedArc(plan.heat.arc_voltage_v, pulse.peak_a, 1 / pulse.rate_pps)


class _Interval(Struct):
    """The readings of an interval: start s, maximum A, sums and numbers of current and voltage."""

    at_s: float
    peak_a: float = 0.0
    amps: float = 0.0
    rows: int = 0
    volts: float = 0.0
    volt_rows: int = 0


class SignalFinder(Struct):
    """Finds the signals of a trace, one reading after the other.

    `has_gas`: the source sends the state of its gas.
    """

    planned: PlannedArc
    signals: list[ArcSignal] = field(default_factory=list)
    has_gas: bool = False
    _phase: str = "quiet"
    _strike_s: float = 0.0
    _is_long: bool = False
    _has_welded: bool = False
    _seam_a: float = 0.0
    _low_since_s: float | None = None
    _high_s: float = 0.0
    _tapers: int = 0
    _gas_off_s: float | None = None
    _has_gas_on: bool = False
    _intervals: deque[_Interval] = field(default_factory=deque)

    @property
    def _level_s(self) -> float:
        return max(LEVEL_S, LEVEL_CYCLES * min(self.planned.cycle_s, MAX_CYCLE_S))

    def follow(self, live: Live) -> None:
        """Find the signals of the latest reading.

        Args:
            live: The totals, after they took the reading.
        """
        if live.last is None:
            return
        time_s, current_a, volts, gas = live.last
        if live.on and self._phase == "quiet":
            self._begin(live.turned_s)
        elif not live.on and self._phase != "quiet":
            self._end(live.turned_s)
        if live.on and not live.is_turning:
            self._add_reading(time_s, current_a, volts)
        if gas is not None:
            self._follow_gas(time_s, bool(gas))

    def _emit(self, kind: str, at_s: float, part: int = 0) -> None:
        if len(self.signals) < MAX_SIGNALS:
            number = sum(signal.kind == "strike" for signal in self.signals)
            self.signals.append(ArcSignal(kind, round(at_s, 3), number + (kind == "strike"), part))

    def _begin(self, at_s: float) -> None:
        self._phase, self._strike_s, self._is_long = "pool", at_s, False
        self._seam_a, self._low_since_s, self._tapers = 0.0, None, 0
        self._intervals.clear()
        self._emit("strike", at_s)

    def _end(self, at_s: float) -> None:
        is_tack = not self._has_welded and at_s - self._strike_s < MAX_TACK_S
        if not is_tack and not self._is_long and not self._has_welded:
            # Its readings ended before it was seen to be long.
            self._emit("long", self._strike_s)
            self._has_welded = True
        self._emit("tack" if is_tack else "off", at_s)
        self._phase = "quiet"

    def _add_reading(self, time_s: float, current_a: float, volts: float | None) -> None:
        intervals = self._intervals
        if not intervals or time_s - intervals[-1].at_s >= INTERVAL_S:
            self._judge(time_s)
            intervals.append(_Interval(time_s))
            while time_s - intervals[0].at_s > self._level_s + 2 * STEADY_S:
                intervals.popleft()
        last = intervals[-1]
        last.peak_a = max(last.peak_a, current_a)
        last.amps, last.rows = last.amps + current_a, last.rows + 1
        if volts is not None:
            last.volts, last.volt_rows = last.volts + volts, last.volt_rows + 1

    def _measure_level(self, until_s: float) -> float:
        """Return the level of the current at a moment, A: the maximum of the time before it."""
        return max(
            (i.peak_a for i in self._intervals if until_s - self._level_s < i.at_s <= until_s),
            default=0.0,
        )

    def _judge(self, now_s: float) -> None:
        """Judge the intervals up to now."""
        if not self._intervals:
            return
        lasted_s = now_s - self._strike_s
        if not self._is_long and lasted_s >= MAX_TACK_S:
            self._is_long = True
            if not self._has_welded:
                self._has_welded = True
                self._emit("long", self._strike_s)
        if self._phase == "pool":
            is_full = self._is_full(self._measure_level(now_s), now_s, lasted_s)
            if is_full or lasted_s >= LATE_S:
                self._phase, self._seam_a, self._high_s = "seam", 0.0, now_s
                self._emit("full" if is_full else "late", now_s)
        else:
            self._look_for_taper(now_s)

    def _is_full(self, level: float, now_s: float, lasted_s: float) -> bool:
        if level >= FULL_SHARE * self.planned.current_a:
            is_full = True
        else:
            before = self._measure_level(now_s - STEADY_S)
            is_full = (
                lasted_s >= self._level_s + STEADY_S
                and level >= MIN_FULL_SHARE * self.planned.current_a
                and abs(level - before) <= STEADY_SHARE * level
            )
        return is_full and self._has_settled(now_s, lasted_s)

    def _has_settled(self, now_s: float, lasted_s: float) -> bool:
        """Return whether the voltage has settled; without readings of it, yes."""
        if all(not i.volt_rows for i in self._intervals):
            return True
        if lasted_s < 2 * SETTLED_S:
            return False
        means = [
            self._mean_volts(now_s - (n + 1) * SETTLED_S, now_s - n * SETTLED_S) for n in (0, 1)
        ]
        # With a slow pulse an interval may lie within one background.
        return None in means or abs((means[0] or 0.0) - (means[1] or 0.0)) <= SETTLED_V

    def _mean_volts(self, from_s: float, to_s: float) -> float | None:
        """Return the mean voltage of an interval, V, at the peaks only; or None."""
        high = 0.8 * self._measure_level(to_s)
        inside = [
            i
            for i in self._intervals
            if from_s < i.at_s <= to_s and i.volt_rows and i.peak_a >= high
        ]
        rows = sum(i.volt_rows for i in inside)
        return sum(i.volts for i in inside) / rows if rows else None

    def _look_for_taper(self, now_s: float) -> None:
        cycle_s = max(LEVEL_S, min(self.planned.cycle_s, MAX_CYCLE_S))
        if now_s - self._intervals[0].at_s < cycle_s:
            return
        inside = [i for i in self._intervals if i.at_s > now_s - cycle_s]
        mean = sum(i.amps for i in inside) / max(1, sum(i.rows for i in inside))
        if self._phase == "taper":
            if mean >= RISE_SHARE * self._seam_a:
                self._phase, self._low_since_s = "seam", None
                self._emit("rise", now_s, self._tapers)
            return
        self._seam_a = self._seam_a or mean
        if mean >= TAPER_START_SHARE * self._seam_a:
            self._high_s = now_s
        if mean >= TAPER_SHARE * self._seam_a:
            self._low_since_s = None
            self._seam_a += (mean - self._seam_a) * min(1.0, INTERVAL_S / SEAM_LEVEL_S)
            return
        if self._low_since_s is None:
            self._low_since_s = now_s
        if now_s - self._low_since_s >= TAPER_S:
            self._phase, self._tapers = "taper", self._tapers + 1
            self._emit("taper", self._high_s, self._tapers)

    def _follow_gas(self, time_s: float, is_on: bool) -> None:
        self.has_gas = True
        if is_on:
            self._has_gas_on, self._gas_off_s = True, None
        elif self._has_gas_on:
            if self._gas_off_s is None:
                self._gas_off_s = time_s
            elif time_s - self._gas_off_s >= GAS_OFF_S:
                self._has_gas_on = False
                self._emit("gas-off", self._gas_off_s)
