"""The bench: one machine of a shop with the torches that go on it and the shelf beside, which is
what a plan is made on.
"""

from __future__ import annotations

from msgspec import Struct

from .shop import Machine, OwnTorch, Shop

ASSUMED_MACHINE = Machine(name="")
ASSUMED_TORCH = OwnTorch(name="")


class Bench(Struct, frozen=True, eq=False):
    """A machine, the torches that go on it, that on the bench now first, and the shelf beside them.
    Compared by identity.
    """

    shop: Shop
    machine: Machine
    torches: tuple[OwnTorch, ...]


def list_benches(shop: Shop) -> tuple[Bench, ...]:
    """Every machine with the torches that go on it; that on the bench now first.

    What was not entered, or of which nothing is owned, is assumed: a machine from 5 to 200 A that
    pulses, an air-cooled torch of 150 A.
    """
    machines = sorted(
        shop.machines or (ASSUMED_MACHINE,), key=lambda m: m.name != shop.bench_machine
    )
    return tuple(Bench(shop, machine, _list_torches(shop, machine)) for machine in machines)


def _list_torches(shop: Shop, machine: Machine) -> tuple[OwnTorch, ...]:
    found = [t for t in shop.torches or () if t.machine in ("", machine.name)]
    return tuple(sorted(found, key=lambda t: t.name != shop.bench_torch)) or (ASSUMED_TORCH,)
