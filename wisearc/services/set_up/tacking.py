"""Tacks and bars of a joint, ticked during assembly."""

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
    """Return the bar runs of a plan with the bars in stock.

    Args:
        plan: The plan.
        shop: The shop.
    """
    at_once = len(list_bar_faces(plan))
    owned = None
    if shop.bars is not None:
        metal = plan.back.cover.removesuffix("-bar")
        owned = [bar for bar in shop.bars if bar.metal == metal and bar.count]
    return split_by_bars(plan.section.length_mm, at_once, owned, plan.back.bar_length_mm)


def tick(subject: str, plan: Plan, shop: Shop, key: str, on: bool) -> None:
    """Tick or untick a line.

    Args:
        subject: The plan or procedure.
        plan: The plan.
        shop: The shop.
        key: The line.
        on: Whether it is ticked.

    Raises:
        UnknownName: The line does not exist.
    """
    lines = build_bench_list(plan, list_bar_runs(plan, shop))
    checks.name("line", key, [line.key for line in lines])
    keys = next(line.keys for line in lines if line.key == key)
    with open_transaction():
        for ticked in keys:
            purges.tick(subject, TACKS, ticked, on)


def list_ticked(subject: str) -> frozenset[str]:
    """Return the ticked keys."""
    return frozenset(purges.list_ticks(subject, TACKS))


def restart_tacks(subject: str) -> None:
    """Remove all ticks."""
    with open_transaction():
        purges.clear_ticks(subject, TACKS)
