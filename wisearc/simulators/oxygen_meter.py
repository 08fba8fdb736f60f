"""A simulated oxygen meter at the vent of a purge.

JSON lines on a local TCP port, {"time_s": …, "ppm": …}, or a replayed CSV. The space has an unmixed
layer and a stirred vessel, and a leak admits air. The meter has lag, noise and a minimum. Small
integration steps, independent of the calculations of the product. All data is invented.
"""

from __future__ import annotations

import csv
import math
import random
from collections import deque
from collections.abc import Callable, Iterator
from pathlib import Path

from msgspec import Struct

from .line import Line

AIR = 209_500.0
STEP_S = 0.02


class Behind(Struct, frozen=True):
    """The simulated space and meter.

    Volume L, flow L/min, stirred fraction, air leak L/min, oxygen in the argon ppm, meter lag s,
    noise as a fraction, seed.
    """

    volume_l: float = 1.0
    flow_l_min: float = 6.0
    mixing: float = 1.0
    leak_l_min: float = 0.0
    floor_ppm: float = 8.0
    lag_s: float = 5.0
    noise: float = 0.02
    seed: int = 1


def simulate_readings(of: Behind, rate_hz: float = 5.0) -> Iterator[tuple[float, float]]:
    """Yield readings without end: (time s, ppm).

    Args:
        of: The space and the meter.
        rate_hz: Readings per second.
    """
    chance = random.Random(of.seed)
    flow, leak = of.flow_l_min / 60, of.leak_l_min / 60
    stirred = max(1e-3, of.mixing) * of.volume_l
    # The unmixed gas moves in a row to the vent, one step of flow at a time.
    steps = round((1 - min(1.0, of.mixing)) * of.volume_l / (flow * STEP_S))
    layer: deque[float] = deque([AIR] * steps)
    inside, displayed, now, due = AIR, AIR, 0.0, 0.0
    while True:
        if now >= due - 1e-9:
            due += 1 / rate_hz
            reading_ppm = displayed * (1 + of.noise * chance.gauss(0, 1)) + 0.5 * chance.gauss(0, 1)
            yield round(now, 3), round(max(0.0, reading_ppm), 2)
        if layer:
            out = layer.popleft()
        else:
            oxygen_ppm = (flow * of.floor_ppm + leak * AIR) / (flow + leak)
            inside += (oxygen_ppm - inside) * -math.expm1(-(flow + leak) * STEP_S / stirred)
            out = inside
        displayed += (out - displayed) * (-math.expm1(-STEP_S / of.lag_s) if of.lag_s > 0 else 1.0)
        now += STEP_S


def replay_readings(path: Path) -> Iterator[tuple[float, float]]:
    """Yield the readings of a CSV with time_s and ppm.

    Raises:
        ValueError: A line cannot be parsed. The error names it.
    """
    with path.open(encoding="utf-8-sig", newline="") as file:
        rows = csv.DictReader(file)
        for row in rows:
            try:
                at, ppm = float(row["time_s"]), float(row["ppm"])
            except (KeyError, TypeError, ValueError) as error:
                raise ValueError(
                    f"line {rows.line_num} of {path.name} has no time_s and ppm"
                ) from error
            if not (math.isfinite(at) and math.isfinite(ppm)):
                raise ValueError(f"line {rows.line_num} of {path.name} is not a reading")
            yield at, ppm


class Meter(Line):
    """The meter on a local port.

    It starts with the first client and sends the same to all.
    """

    def __init__(
        self, make: Callable[[], Iterator[tuple[float, float]]], port: int = 0, speed: float = 1.0
    ) -> None:
        """Open the port.

        Args:
            make: Returns the readings.
            port: The port, 0 for a free one.
            speed: Speed relative to real time.
        """
        super().__init__(lambda: ({"time_s": at, "ppm": ppm} for at, ppm in make()), port, speed)
