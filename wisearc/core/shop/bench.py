"""The bench: one machine of a shop with its torches and the stock.

A plan is made for a bench.
"""

from __future__ import annotations

from msgspec import Struct

from .shop import Machine, OwnTorch, Shop

ASSUMED_MACHINE = Machine(name="")
ASSUMED_TORCH = OwnTorch(name="")


class Bench(Struct, frozen=True, eq=False):
    """A machine, its torches with the one in use first, and the stock.

    Compared by identity.
    """

    shop: Shop
    machine: Machine
    torches: tuple[OwnTorch, ...]


def list_benches(shop: Shop) -> tuple[Bench, ...]:
    """Return every machine with its torches, the one in use first.

    An unknown or empty list gives an assumed one: a machine from 5 to 200 A with pulse, an
    air-cooled torch of 150 A.
    """
    machines = sorted(
        shop.machines or (ASSUMED_MACHINE,), key=lambda m: m.name != shop.bench_machine
    )
    return tuple(Bench(shop, machine, _list_torches(shop, machine)) for machine in machines)


def _list_torches(shop: Shop, machine: Machine) -> tuple[OwnTorch, ...]:
    torches = [t for t in shop.torches or () if t.machine in ("", machine.name)]
    return tuple(sorted(torches, key=lambda t: t.name != shop.bench_torch)) or (ASSUMED_TORCH,)
