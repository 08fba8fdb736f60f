"""Tacks and bars of a joint, ticked as they are done."""

from __future__ import annotations

from ...core.plan.plan import Plan
from ...core.plan.preparation.bar_runs import (
    BarRun,
    build_bench_list,
    list_bar_faces,
    split_by_bars,
)
from ...core.schema import checks
from ...core.shop.shop import Shop
from ...store import purges
from ...store.database import open_transaction

TACKS = "tacks"


def list_bar_runs(plan: Plan, shop: Shop) -> list[BarRun]:
    """The bar runs of a plan by the bars that the shop has of the metal that it was planned
    with.
    """
    at_once = len(list_bar_faces(plan))
    owned = None
    if shop.bars is not None:
        metal = plan.back.cover.removesuffix("-bar")
        owned = [bar for bar in shop.bars if bar.metal == metal and bar.count]
    return split_by_bars(plan.section.length_mm, at_once, owned, plan.back.bar_length_mm)


def tick(what: str, plan: Plan, shop: Shop, key: str, on: bool) -> None:
    """Tick a line, or not. Raises UnknownName."""
    found = build_bench_list(plan, list_bar_runs(plan, shop))
    checks.name("line", key, [line.key for line in found])
    with open_transaction():
        purges.tick(what, TACKS, key, on)


def list_ticked(what: str) -> frozenset[str]:
    """The keys of the lines that are ticked."""
    return frozenset(purges.list_ticks(what, TACKS))


def restart_tacks(what: str) -> None:
    """Begin the list anew."""
    with open_transaction():
        purges.clear_ticks(what, TACKS)
