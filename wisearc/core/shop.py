"""What the plan may count on: machine, torch, own record. Until a shop is entered, an assumed one."""

from __future__ import annotations

from dataclasses import dataclass

from . import catalogue
from .catalogue import rows


@dataclass(frozen=True)
class Shop:
    """Machine limits in A, whether it pulses, the torch size, and what like joints took before.

    own_runs counts good logged runs of like joints; own_record_a is their mean steady current.
    """

    machine_least_a: float = 5.0
    machine_most_a: float = 200.0
    machine_pulses: bool = True
    torch: str = "17"
    own_record_a: float | None = None
    own_runs: int = 0

    @property
    def torch_row(self) -> rows.Torch:
        return catalogue.torches()[self.torch]


ASSUMED = Shop()
