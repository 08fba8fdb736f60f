"""The arc while it burns: what a trace comes to so far, reading by reading, in as much room
whatever its length.
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

# what is looked at to tell the pulse, s, and the most rows kept of it
LOOKED_S, MAX_ROWS = 12.0, 20_000
GAP_S = 1.0
Row = tuple[float, float, float | None, float | None]


class Live(Struct):
    """What a trace comes to: the arc's time s, energy kJ, charge A·s, gas time s; whether the arc
    is on and since when s; how often it was struck; the last rows.
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
        """The mean current while the arc was on, A."""
        return self.charge_as / self.arc_s if self.arc_s > 0 else None

    def take(self, row: Row) -> None:
        """Take a reading: time s, current A, voltage V or None, gas or None; times that do not go
        on are left out.
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
        """On and off, each once it lasts."""
        if (current >= ON_A) == self.on:
            self._other_since = None
            return
        if self._other_since is None:
            self._other_since = time
        if time - self._other_since >= (MIN_OFF_S if self.on else MIN_ON_S):
            self.on, self.turned_s, self._other_since = not self.on, self._other_since, None
            self.strikes += self.on

    def looked_at(self, held: Mapping[str, Ends]) -> ArcLog | None:
        """The last seconds read as a log; None where there is too little."""
        import numpy as np

        rows = [r for r in self.tail if not self.on or r[0] >= self.turned_s]
        if len(rows) < 10:
            return None
        time, current, volts = (
            np.array([np.nan if r[i] is None else r[i] for r in rows]) for i in range(3)
        )
        return analyse(Readings(time, current, volts), None, held, usual_v=self.usual_v)
