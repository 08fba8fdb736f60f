"""A simulated oxygen meter at the vent of a purge: JSON lines on a local TCP port, {"time_s": …,
"ppm": …}; or a CSV played again.

The space behind is a layer that is pushed out whole and a vessel that is stirred; a leak lets air
in; the meter follows with a lag, scatters, and has a floor. Integrated in small steps, by nothing
that the product reckons with. All of it is invented.
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
    """What is simulated: volume L, flow L/min, the share that is stirred, air through a leak L/min,
    oxygen in the argon ppm; the meter's lag s, its scatter as a share, and a seed.
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
    """Readings without end: (time s, ppm)."""
    chance = random.Random(of.seed)
    flow, leak = of.flow_l_min / 60, of.leak_l_min / 60
    stirred = max(1e-3, of.mixing) * of.volume_l
    # what is not stirred lies in a row before the vent, and comes out a step's flow at a time
    steps = round((1 - min(1.0, of.mixing)) * of.volume_l / (flow * STEP_S))
    layer: deque[float] = deque([AIR] * steps)
    inside, shown, now, due = AIR, AIR, 0.0, 0.0
    while True:
        if now >= due - 1e-9:
            due += 1 / rate_hz
            seen = shown * (1 + of.noise * chance.gauss(0, 1)) + 0.5 * chance.gauss(0, 1)
            yield round(now, 3), round(max(0.0, seen), 2)
        if layer:
            out = layer.popleft()
        else:
            came = (flow * of.floor_ppm + leak * AIR) / (flow + leak)
            inside += (came - inside) * -math.expm1(-(flow + leak) * STEP_S / stirred)
            out = inside
        shown += (out - shown) * (-math.expm1(-STEP_S / of.lag_s) if of.lag_s > 0 else 1.0)
        now += STEP_S


def replay_readings(path: Path) -> Iterator[tuple[float, float]]:
    """The readings of a CSV with time_s and ppm. Raises ValueError naming the line that cannot be
    read.
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
    """The meter on a port of this machine: begins at the first that listens, and says the same to
    all who do.
    """

    def __init__(
        self, make: Callable[[], Iterator[tuple[float, float]]], port: int = 0, speed: float = 1.0
    ) -> None:
        super().__init__(lambda: ({"time_s": at, "ppm": ppm} for at, ppm in make()), port, speed)
