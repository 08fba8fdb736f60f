"""Tacks and bars of a joint, ticked as they are done."""

from __future__ import annotations

from ...core.plan.plan import Plan
from ...core.plan.preparation.bar_runs import BarRun, bar_runs, bench_list, faces
from ...core.schema import checks
from ...core.shop.shop import Shop
from ...store import purges
from ...store.database import transaction

TACKS = "tacks"


def runs_of(plan: Plan, shop: Shop) -> list[BarRun]:
    """The bar runs of a plan by the bars that the shop has of the metal that it was planned
    with.
    """
    at_once = len(faces(plan))
    owned = None
    if shop.bars is not None:
        metal = plan.back.cover.removesuffix("-bar")
        owned = [bar for bar in shop.bars if bar.metal == metal and bar.count]
    return bar_runs(plan.section.length_mm, at_once, owned, plan.back.bar_length_mm)


def tick(what: str, plan: Plan, shop: Shop, key: str, on: bool) -> None:
    """Tick a line, or not. Raises UnknownName."""
    found = bench_list(plan, runs_of(plan, shop))
    checks.name("line", key, [line.key for line in found])
    with transaction():
        purges.tick(what, TACKS, key, on)


def ticked(what: str) -> frozenset[str]:
    """The keys of the lines that are ticked."""
    return frozenset(purges.ticks(what, TACKS))


def again(what: str) -> None:
    """Begin the list anew."""
    with transaction():
        purges.clear_ticks(what, TACKS)
