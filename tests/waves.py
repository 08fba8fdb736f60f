"""Known waveforms.

A square pulse or a steady arc with slopes, gas, noise, jitter and lost rows, independent of the
calculations of the product.
"""

from __future__ import annotations

import numpy as np
from msgspec import Struct


class Wave(Struct, frozen=True):
    """A waveform.

    Frequency 1/s (0 steady), peak time as a fraction, peak and background A, readings a second,
    seconds of arc, before and after; slopes s; noise A; jitter of the step as a fraction; fraction
    of lost rows, and three gaps of 0.2 s; a seed.
    """

    rate: float = 0.0
    on: float = 1.0
    peak: float = 68.0
    background: float = 0.0
    hz: float = 1000.0
    arc: float = 60.0
    before: float = 1.0
    after: float = 8.0
    up: float = 0.0
    down: float = 0.0
    noise: float = 3.0
    jitter: float = 0.0
    lost: float = 0.0
    seed: int = 1

    def rows(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Time s, current A, gas 0 or 1."""
        chance = np.random.default_rng(self.seed)
        count = int((self.before + self.arc + self.after) * self.hz)
        time = np.cumsum(
            np.full(count, 1 / self.hz) * (1 + self.jitter * chance.uniform(-1, 1, count))
        )
        into = time - self.before
        current = (
            np.where((into * self.rate) % 1 < self.on, self.peak, self.background)
            if self.rate
            else np.full(count, self.peak)
        )
        if self.up:
            current = current * np.clip(0.25 + 0.75 * into / self.up, 0, 1)
        if self.down:
            current = current * np.clip(0.1 + 0.9 * (self.arc - into) / self.down, 0, 1)
        current = np.where((into >= 0) & (into < self.arc), current, 0.0) + chance.normal(
            0, self.noise, count
        )
        gas = ((into > -0.5) & (into < self.arc + 6.0)).astype(float)
        kept = chance.uniform(size=count) >= self.lost
        if self.lost:
            for at in chance.uniform(0, time[-1], 3):
                kept &= ~((time > at) & (time < at + 0.2))
        return time[kept], current[kept], gas[kept]


def format_csv(
    time: np.ndarray,
    current: np.ndarray,
    voltage: np.ndarray | None = None,
    gas: np.ndarray | None = None,
) -> str:
    """Rows as a log."""
    columns = {"time_s": time, "current_a": current, "voltage_v": voltage, "gas": gas}
    told = {key: values for key, values in columns.items() if values is not None}
    lines = (
        ",".join(
            f"{value:.6g}" if key != "time_s" else f"{value:.4f}"
            for key, value in zip(told, row, strict=True)
        )
        for row in zip(*told.values(), strict=True)
    )
    return "\n".join([",".join(told), *lines]) + "\n"
