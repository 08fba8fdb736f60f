"""Materials of a job.

Argon by cylinder, rods, tungstens, chill bars, missing stock, and cost by the entered prices.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from .. import catalogue
from ..physics.gas import contents_l
from ..plan.preparation.bar_runs import list_bar_faces
from ..quantities import length, stock
from ..reasons import StoredText
from ..shop.shop import MIN_CYLINDER_BAR, Cylinder, Shop
from .bench_state import Task
from .order import Step

# The contents of a cylinder without entry, and of a filling: 50 L water volume at 200 bar.
# Estimate.
USUAL_CYLINDER = (50.0, 200.0)
# Reusable items are needed once for any number of jobs. Only missing ones cost money.
REUSABLE = ("tungstens", "bars")


class Item(Struct, frozen=True):
    """A material of a job.

    Its list in the shop ("cylinders", "rods", "tungstens", "bars"), identity, text, amounts needed
    and in stock (None: list not entered), unit, and unit price or None.
    """

    list: str
    key: str
    words: StoredText
    need: float
    have: float | None
    unit: str
    price: float | None = None

    @property
    def short(self) -> float:
        """Return the missing amount."""
        return max(0.0, self.need - self.have) if self.have is not None else 0.0

    @property
    def money(self) -> float | None:
        """Return the cost, or None without a price.

        A reusable item costs its missing amount, other items the consumption.
        """
        return (
            None
            if self.price is None
            else self.price * (self.short if self.list in REUSABLE else self.need)
        )


class CylinderUse(Struct, frozen=True):
    """A cylinder in use: name, contents, and the seam and piece at its end ("": sufficient)."""

    name: str
    holds_l: float
    used_l: float
    ends_at: str
    piece: int


class Materials(Struct, frozen=True):
    """The materials of a job.

    Argon L by gas, fraction of a usual cylinder, cylinders in order, missing litres, and every
    item.
    """

    argon_l: Mapping[str, float]
    share: float
    cylinders: tuple[CylinderUse, ...]
    lacking_l: float
    items: tuple[Item, ...]

    @property
    def buy(self) -> tuple[Item, ...]:
        """Return the items to buy."""
        return tuple(item for item in self.items if item.short > 0)

    @property
    def money(self) -> float | None:
        """Return the cost of all items with a price, or None without any."""
        known = [item.money for item in self.items if item.money is not None]
        return sum(known) if known else None


def estimate_materials(tasks: Mapping[str, Task], steps: Sequence[Step], shop: Shop) -> Materials:
    """Estimate the materials of a job within a shop.

    Args:
        tasks: Tasks by seam.
        steps: Every step in order. The first section of a seam has the materials of the seam.
        shop: The shop.
    """
    steps = [step for step in steps if step.is_weld and step.section == 1]
    runs = [tasks[step.key] for step in steps]
    argon: dict[str, float] = {}
    for task in runs:
        argon[task.plan.gas.gas] = argon.get(task.plan.gas.gas, 0.0) + task.plan.gas.argon_l
    cylinders, lacking = _draw_cylinders(tasks, steps, shop)
    total = sum(argon.values())
    items = (
        *_list_argon(argon, shop),
        *_list_rods(runs, shop),
        *_list_tungstens(runs, shop),
        *_list_bars(runs, shop),
    )
    return Materials(argon, total / contents_l(*USUAL_CYLINDER), cylinders, lacking, items)


def sum_items(takes: Iterable[Materials]) -> tuple[Item, ...]:
    """Add the items of several jobs.

    Consumption adds up, and a reusable item counts once.
    """
    items: dict[tuple[str, str], Item] = {}
    for take in takes:
        for item in take.items:
            at = (item.list, item.key)
            before = items.get(at)
            if before is None:
                items[at] = item
            else:
                need = (
                    max(before.need, item.need)
                    if item.list in REUSABLE
                    else before.need + item.need
                )
                items[at] = Item(
                    item.list, item.key, item.words, need, item.have, item.unit, item.price
                )
    return tuple(items.values())


def _draw_cylinders(
    tasks: Mapping[str, Task], steps: Sequence[Step], shop: Shop
) -> tuple[tuple[CylinderUse, ...], float]:
    """Return the cylinders of each gas in order, the emptiest first, and the missing amount, L."""
    if shop.cylinders is None:
        return (), 0.0
    used, lacking = [], 0.0
    for gas in dict.fromkeys(tasks[s.key].plan.gas.gas for s in steps):
        full = [
            (c.name or f"{c.gas} cylinder {i}", _gives_l(c))
            for i, c in enumerate(shop.cylinders, 1)
            if c.gas == gas and c.bar > MIN_CYLINDER_BAR
        ]
        turn = sorted(full, key=lambda draw: draw[1])
        at, left, drawn = 0, turn[0][1] if turn else 0.0, 0.0
        for step in steps:
            need = tasks[step.key].plan.gas.argon_l if tasks[step.key].plan.gas.gas == gas else 0.0
            while need > left and at < len(turn):
                used.append(
                    CylinderUse(turn[at][0], turn[at][1], turn[at][1], step.key, step.piece)
                )
                need, at = need - left, at + 1
                left, drawn = turn[at][1] if at < len(turn) else 0.0, 0.0
            if at < len(turn):
                left, drawn = left - need, drawn + need
            else:
                lacking += need
        if at < len(turn) and drawn > 0:
            used.append(CylinderUse(turn[at][0], turn[at][1], drawn, "", 0))
    return tuple(used), lacking


def _gives_l(cylinder: Cylinder) -> float:
    """Return the usable contents of a cylinder, L, down to the minimum regulator pressure."""
    return max(
        0.0,
        contents_l(cylinder.water_l, cylinder.bar) - contents_l(cylinder.water_l, MIN_CYLINDER_BAR),
    )


def _list_argon(argon: Mapping[str, float], shop: Shop) -> list[Item]:
    items = []
    for gas, need in argon.items():
        of = [c for c in shop.cylinders or () if c.gas == gas]
        have = None if shop.cylinders is None else sum(_gives_l(c) for c in of)
        priced = [
            c.price / contents_l(c.water_l, USUAL_CYLINDER[1]) for c in of if c.price is not None
        ]
        items.append(
            Item(
                "cylinders",
                gas,
                StoredText(gas, gas),
                round(need, 1),
                have,
                "L",
                priced[0] if priced else None,
            )
        )
    return items


def _list_rods(runs: Sequence[Task], shop: Shop) -> list[Item]:
    """Return the rods of each class and size.

    The feed, with the plan's allowance for stubs and tacks, divided by the length of one.
    """
    fed: dict[tuple[str, float], float] = {}
    for task in runs:
        filler = task.plan.filler
        if filler.rod and filler.diameter_mm:
            fed[filler.rod, filler.diameter_mm] = (
                fed.get((filler.rod, filler.diameter_mm), 0.0) + filler.length_mm
            )
    items = []
    for (rod, d), mm in fed.items():
        in_stock = [
            rod_stock
            for rod_stock in shop.rods or ()
            if rod_stock.rod == rod and rod_stock.diameter_mm == d
        ]
        long = next(
            (rod_stock.length_mm for rod_stock in in_stock),
            catalogue.load_rod_sizes().rod_length_mm,
        )
        have = None if shop.rods is None else float(sum(rod_stock.count for rod_stock in in_stock))
        text = StoredText(
            *(
                f"{rod} {stock(d).text(units)}, {length(long).text(units)} long"
                for units in ("mm", "in")
            )
        )
        items.append(
            Item(
                "rods",
                f"{rod}/{d:g}",
                text,
                math.ceil(round(mm / long, 6)),
                have,
                "rods",
                _find_price(in_stock),
            )
        )
    return items


def _list_tungstens(runs: Sequence[Task], shop: Shop) -> list[Item]:
    """Return one tungsten of each type and size.

    It is reground after each contact.
    """
    items = []
    for kind, d in dict.fromkeys((t.torch.tungsten, t.torch.tungsten_mm) for t in runs):
        in_stock = [
            tungsten_stock
            for tungsten_stock in shop.tungstens or ()
            if tungsten_stock.type == kind and tungsten_stock.diameter_mm == d
        ]
        have = (
            None
            if shop.tungstens is None
            else float(sum(tungsten_stock.count for tungsten_stock in in_stock))
        )
        name = (
            catalogue.load_tungsten_types()[kind].name
            if kind in catalogue.load_tungsten_types()
            else kind
        )
        text = StoredText(*(f"{name} {stock(d).text(units)}" for units in ("mm", "in")))
        items.append(
            Item("tungstens", f"{kind}/{d:g}", text, 1, have, "pieces", _find_price(in_stock))
        )
    return items


def _list_bars(runs: Sequence[Task], shop: Shop) -> list[Item]:
    """Return the chill bars of each metal: the maximum at one seam.

    They are reusable.
    """
    maximum: dict[str, int] = {}
    for task in runs:
        cover = catalogue.back_covers().get(task.plan.back.cover)
        if task.plan.back.barred and cover is not None and cover.metal:
            maximum[cover.metal] = max(maximum.get(cover.metal, 0), len(list_bar_faces(task.plan)))
    items = []
    for metal, need in maximum.items():
        in_stock = [bar for bar in shop.bars or () if bar.metal == metal]
        have = None if shop.bars is None else float(sum(bar.count for bar in in_stock))
        text = f"{metal} bars"
        items.append(
            Item("bars", metal, StoredText(text, text), need, have, "pieces", _find_price(in_stock))
        )
    return items


def _find_price(stock: Sequence[object]) -> float | None:
    return next(
        (price for item in stock if (price := getattr(item, "price", None)) is not None), None
    )
