"""A simulated power source for a manual weld.

JSON lines on a local TCP port, {"time_s": …, "current_a": …, "voltage_v": …, "gas": 0 or 1}. The
current varies about its setting. It has breaks with new strikes, deviations and tungsten contacts.
All data is invented and independent of the calculations of the product.
"""

from __future__ import annotations

import random
from collections.abc import Iterator

from msgspec import Struct


class Seam(Struct, frozen=True):
    """The simulated weld.

    Peak A, background A (0: steady), pulses per second, peak time as a fraction, arc time s,
    pre-flow and post-flow s, slopes s, tacks, number of breaks, deviation and contact, variation as
    a fraction, voltage V, readings per second, seed.
    """

    peak_a: float = 110.0
    background_a: float = 11.0
    rate_pps: float = 2.0
    on: float = 0.3
    arc_s: float = 60.0
    preflow_s: float = 0.5
    postflow_s: float = 6.0
    up_s: float = 0.3
    down_s: float = 1.5
    tacks: int = 0
    restarts: int = 1
    slip: bool = True
    touched: bool = False
    hand: float = 0.02
    volts: float = 10.5
    rate_hz: float = 50.0
    seed: int = 1


Row = dict[str, float]


def simulate_rows(of: Seam) -> Iterator[Row]:
    """Yield the readings: pause, tacks, the seam in one or more pieces, pause."""
    chance = random.Random(of.seed)
    maker = _Maker(of, chance)
    yield from maker.quiet(1.5)
    for _ in range(of.tacks):
        yield from maker.gas(of.preflow_s)
        yield from maker.arc(0.6, 1.3, 0.0, 0.0)
        yield from maker.gas(of.postflow_s)
        yield from maker.quiet(1.0)
    pieces = _split_seam(of, chance)
    for i, (long, breaks) in enumerate(pieces):
        yield from maker.gas(of.preflow_s)
        # A break is abrupt, and only the last piece has a down-slope.
        yield from maker.arc(
            long,
            1.0,
            of.up_s,
            0.0 if breaks else of.down_s,
            touch=of.touched and i == len(pieces) // 2,
        )
        yield from maker.gas(of.postflow_s)
        if breaks:
            yield from maker.quiet(2.0)
    yield from maker.quiet(2.0)


def _split_seam(of: Seam, chance: random.Random) -> list[tuple[float, bool]]:
    cuts = sorted(chance.uniform(0.2, 0.8) * of.arc_s for _ in range(of.restarts))
    ends = [*cuts, of.arc_s]
    return [(end - start, end != of.arc_s) for start, end in zip([0.0, *cuts], ends, strict=True)]


class _Maker:
    def __init__(self, of: Seam, chance: random.Random) -> None:
        self.of, self.chance, self.now, self.sway = of, chance, 0.0, 0.0
        self.slip_at = of.arc_s * chance.uniform(0.3, 0.5)
        self.burnt = 0.0

    def _row(self, current: float, volts: float, gas: int) -> Row:
        row = {
            "time_s": round(self.now, 3),
            "current_a": round(max(0.0, current), 1),
            "voltage_v": round(max(0.0, volts), 2),
            "gas": gas,
        }
        self.now += 1 / self.of.rate_hz
        return row

    def quiet(self, seconds: float) -> Iterator[Row]:
        for _ in range(round(seconds * self.of.rate_hz)):
            yield self._row(abs(self.chance.gauss(0, 0.2)), 0.0, 0)

    def gas(self, seconds: float) -> Iterator[Row]:
        for _ in range(round(seconds * self.of.rate_hz)):
            yield self._row(abs(self.chance.gauss(0, 0.2)), 0.0, 1)

    def arc(
        self, seconds: float, share: float, up: float, down: float, touch: bool = False
    ) -> Iterator[Row]:
        of, steps = self.of, round(seconds * self.of.rate_hz)
        for i in range(steps):
            at = i / of.rate_hz
            # The current varies slowly about its setting.
            self.sway += -0.05 * self.sway + of.hand * 0.3 * self.chance.gauss(0, 1)
            high = not of.background_a or (at * of.rate_pps) % 1 < of.on
            current = (of.peak_a if high else of.background_a) * share * (1 + self.sway)
            current *= min(1.0, 0.25 + 0.75 * at / up) if up else 1.0
            current *= max(0.1, min(1.0, (seconds - at) / down)) if down else 1.0
            if of.slip and self.slip_at < self.burnt < self.slip_at + 4.0:
                current *= 1.25
            volts = of.volts + 0.01 * (current - of.peak_a) + self.chance.gauss(0, 0.15)
            if touch and abs(at - seconds / 2) < 0.06:
                current, volts = current * 1.3, 2.0
            self.burnt += 1 / of.rate_hz
            yield self._row(current + self.chance.gauss(0, 0.4), volts, 1)
