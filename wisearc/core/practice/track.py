"""A recorded weld: places of the torch, requested current, and times of the dabs."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec import Struct

from ..conduction.metal import Floats
from ..errors import InputError
from ..schema.checks import check_number

# Limits of a track: ten minutes at three hundred samples a second. Estimates.
MAX_SAMPLES, MAX_DABS, MAX_S = 200_000, 20_000, 600.0
MAX_MM, MAX_A = 2_000.0, 500.0
MIN_SAMPLES = 2
_COLUMNS = 4


class Track(Struct, frozen=True, eq=False):
    """A recorded weld.

    `samples` (n, 4): time s, along the seam from its start mm, across it mm (positive on the first
    member), and the current A that the pedal asks for, with a pulse the peak. Times of the dabs s,
    rising, and when the gas was shut off s, None for the post-flow of the plan. `lesson` is the key
    of a lesson or None.
    """

    samples: Floats
    dabs_s: tuple[float, ...] = ()
    gas_off_s: float | None = None
    lesson: str | None = None

    @property
    def end_s(self) -> float:
        """Return the time of the last sample, s."""
        return float(self.samples[-1, 0])


def build_track(
    samples: Sequence[Any],
    dabs_s: Sequence[Any] = (),
    gas_off_s: Any = None,
    lesson: str | None = None,
) -> Track:
    """Return a track from plain values.

    Args:
        samples: Rows of time s, along mm, across mm, current A.
        dabs_s: Times of the dabs, s.
        gas_off_s: When the gas was shut off, s, or None.
        lesson: Key of a lesson, or None.

    Raises:
        InputError: There are too many or too few values, one is no number or outside its limits,
            or the times do not rise.
    """
    if not MIN_SAMPLES <= len(samples) <= MAX_SAMPLES:
        rule = f"has {len(samples)} rows. It must have {MIN_SAMPLES} to {MAX_SAMPLES}"
        raise InputError("samples", None, rule)
    if len(dabs_s) > MAX_DABS:
        raise InputError("dabs", None, f"has {len(dabs_s)} times. It may have {MAX_DABS}")
    rows = read_samples(samples)
    dabs = [check_number(f"dabs.{i}", value, 0, MAX_S, "s") for i, value in enumerate(dabs_s)]
    _check_rising("dabs", dabs)
    gas = None if gas_off_s is None else check_number("gas_off_s", gas_off_s, 0, MAX_S, "s")
    return Track(rows, tuple(dabs), gas, lesson)


def read_samples(samples: Sequence[Any], after_s: float = -1.0) -> Floats:
    """Return samples as an array (n, 4) whose times rise.

    Args:
        samples: Rows of time s, along mm, across mm, current A.
        after_s: The time of the sample before them, s.

    Raises:
        InputError: A row is wrong, or the times do not rise.
    """
    limits = (
        (0.0, MAX_S, "s"),
        (-MAX_MM, MAX_MM, "mm"),
        (-MAX_MM, MAX_MM, "mm"),
        (0.0, MAX_A, "A"),
    )
    for i, row in enumerate(samples):
        if not isinstance(row, list | tuple) or len(row) != _COLUMNS:
            rule = "must be time s, along mm, across mm and current A: [0.5, 12, 0.1, 54]"
            raise InputError(f"samples.{i}", row, rule)
        for value, (low, high, unit) in zip(row, limits, strict=True):
            check_number(f"samples.{i}", value, low, high, unit)
    rows = np.array(samples, dtype=float).reshape(-1, _COLUMNS)
    _check_rising("samples", [after_s, *rows[:, 0].tolist()])
    return rows


def _check_rising(name: str, times_s: Sequence[float]) -> None:
    for i, (before, after) in enumerate(itertools.pairwise(times_s)):
        if after <= before:
            rule = f"comes after {before:g} s. Times must rise from row to row"
            raise InputError(f"{name}.{i}", f"{after:g} s", rule)
