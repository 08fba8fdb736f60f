"""Totals of a running arc, updated with each reading.

The memory does not grow with the time.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping

from msgspec import Struct, field

from ..physics.heat import ARC_VOLTAGE_V
from .arc_log import ArcLog, analyse
from .limits import Ends
from .readings import Readings
from .stretches import MIN_OFF_S, MIN_ON_S, ON_A

# The time used to detect the pulse, s, and the maximum number of rows saved for it.
LOOKED_S, MAX_ROWS = 12.0, 20_000
GAP_S = 1.0
Row = tuple[float, float, float | None, float | None]


class Live(Struct):
    """The totals of a trace.

    They are arc time s, energy kJ, charge A·s and gas time s, whether the arc is on and since when,
    s, the number of strikes, and the last rows.
    """

    arc_s: float = 0.0
    energy_kj: float = 0.0
    charge_as: float = 0.0
    gas_s: float = 0.0
    on: bool = False
    turned_s: float = 0.0
    strikes: int = 0
    rows: int = 0
    last: Row | None = None
    usual_v: float = ARC_VOLTAGE_V
    tail: deque[Row] = field(default_factory=lambda: deque(maxlen=MAX_ROWS))
    _other_since: float | None = None

    @property
    def mean_a(self) -> float | None:
        """Return the mean current while the arc was on, A."""
        return self.charge_as / self.arc_s if self.arc_s > 0 else None

    @property
    def is_turning(self) -> bool:
        """Return whether the last readings are of the other state, for too short a time so far."""
        return self._other_since is not None

    def take(self, row: Row) -> None:
        """Add a reading.

        A reading that is not later than the one before is ignored.
        """
        time, current, volts, gas = row
        if self.last is not None:
            step = time - self.last[0]
            if step <= 0:
                return
            if step <= GAP_S:
                self._add(step, (current + self.last[1]) / 2, volts)
                self.gas_s += step if gas else 0.0
        self.rows, self.last = self.rows + 1, row
        self.tail.append(row)
        while self.tail and time - self.tail[0][0] > LOOKED_S:
            self.tail.popleft()
        self._turn(time, current)

    def _add(self, step: float, current: float, volts: float | None) -> None:
        if not self.on:
            return
        self.arc_s += step
        self.charge_as += step * current
        self.energy_kj += step * current * (self.usual_v if volts is None else volts) / 1000

    def _turn(self, time: float, current: float) -> None:
        """Switch the arc state after the new state has lasted long enough."""
        if (current >= ON_A) == self.on:
            self._other_since = None
            return
        if self._other_since is None:
            self._other_since = time
        if time - self._other_since >= (MIN_OFF_S if self.on else MIN_ON_S):
            self.on, self.turned_s, self._other_since = not self.on, self._other_since, None
            self.strikes += self.on

    def summarise_recent(self, held: Mapping[str, Ends]) -> ArcLog | None:
        """Analyse the last seconds as a log.

        Return None if there are too few readings.
        """
        import numpy as np

        rows = [r for r in self.tail if not self.on or r[0] >= self.turned_s]
        if len(rows) < 10:
            return None
        time, current, volts = (
            np.array([np.nan if r[i] is None else r[i] for r in rows]) for i in range(3)
        )
        return analyse(Readings(time, current, volts), None, held, usual_v=self.usual_v)
