"""What a job takes: argon by the cylinder and where one runs out, rods, tungstens, bars; what of it
is not on the shelf, and what it costs where prices were entered.
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

# what a cylinder holds where none is entered, and how full a filling is: 50 L of water at 200 bar.
# Estimate
USUAL_CYLINDER = (50.0, 200.0)
# what is used again: wanted once however many jobs, and costs only what is to be got of it
USED_AGAIN = ("tungstens", "bars")


class Item(Struct, frozen=True):
    """A thing a job takes: which list of the shop it is of ("cylinders", "rods", "tungstens",
    "bars"), what makes it the same as another, in words; how much is needed and there (None: that
    list was not entered), in what unit; the price of one, None where none was entered.
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
        """How much is to be got."""
        return max(0.0, self.need - self.have) if self.have is not None else 0.0

    @property
    def money(self) -> float | None:
        """What is used up costs, or what is to be got of that which is used again; None where no
        price was entered.
        """
        return (
            None
            if self.price is None
            else self.price * (self.short if self.list in USED_AGAIN else self.need)
        )


class CylinderUse(Struct, frozen=True):
    """A cylinder of the shop that is drawn from: its name, what it gives, and at which seam and
    piece it is empty ("" : it lasts).
    """

    name: str
    holds_l: float
    used_l: float
    ends_at: str
    piece: int


class Materials(Struct, frozen=True):
    """What a job takes: argon L by gas, its share of a usual cylinder, the cylinders in turn,
    litres that no cylinder gives; every item.
    """

    argon_l: Mapping[str, float]
    share: float
    cylinders: tuple[CylinderUse, ...]
    lacking_l: float
    items: tuple[Item, ...]

    @property
    def buy(self) -> tuple[Item, ...]:
        """What is to be got."""
        return tuple(item for item in self.items if item.short > 0)

    @property
    def money(self) -> float | None:
        """What all that has a price costs, None where nothing has."""
        known = [item.money for item in self.items if item.money is not None]
        return sum(known) if known else None


def estimate_materials(tasks: Mapping[str, Task], steps: Sequence[Step], shop: Shop) -> Materials:
    """What the runs of a job take within a shop. Parameters: tasks, by seam; steps, every run in
    order.
    """
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
    """What several jobs take in all: what is used up adds, what is used again is wanted once."""
    found: dict[tuple[str, str], Item] = {}
    for take in takes:
        for item in take.items:
            at = (item.list, item.key)
            before = found.get(at)
            if before is None:
                found[at] = item
            else:
                need = (
                    max(before.need, item.need)
                    if item.list in USED_AGAIN
                    else before.need + item.need
                )
                found[at] = Item(
                    item.list, item.key, item.words, need, item.have, item.unit, item.price
                )
    return tuple(found.values())


def _draw_cylinders(
    tasks: Mapping[str, Task], steps: Sequence[Step], shop: Shop
) -> tuple[tuple[CylinderUse, ...], float]:
    """The cylinders of each gas in turn, the least full first so that it is used up; what is
    lacking at the end, L.
    """
    if shop.cylinders is None:
        return (), 0.0
    used, lacking = [], 0.0
    for gas in dict.fromkeys(tasks[s.key].plan.gas.gas for s in steps):
        full = [
            (c.name or f"{c.gas} cylinder {i}", _gives_l(c))
            for i, c in enumerate(shop.cylinders, 1)
            if c.gas == gas and c.bar > MIN_CYLINDER_BAR
        ]
        turn = sorted(full, key=lambda one: one[1])
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


def _gives_l(one: Cylinder) -> float:
    """What a cylinder gives until no regulator holds its flow, L."""
    return max(0.0, contents_l(one.water_l, one.bar) - contents_l(one.water_l, MIN_CYLINDER_BAR))


def _list_argon(argon: Mapping[str, float], shop: Shop) -> list[Item]:
    found = []
    for gas, need in argon.items():
        of = [c for c in shop.cylinders or () if c.gas == gas]
        have = None if shop.cylinders is None else sum(_gives_l(c) for c in of)
        priced = [
            c.price / contents_l(c.water_l, USUAL_CYLINDER[1]) for c in of if c.price is not None
        ]
        found.append(
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
    return found


def _list_rods(runs: Sequence[Task], shop: Shop) -> list[Item]:
    """Rods of each class and size: all that is fed, with the plan's share for stubs and tacks, by
    the length of one.
    """
    fed: dict[tuple[str, float], float] = {}
    for task in runs:
        filler = task.plan.filler
        if filler.rod and filler.diameter_mm:
            fed[filler.rod, filler.diameter_mm] = (
                fed.get((filler.rod, filler.diameter_mm), 0.0) + filler.length_mm
            )
    found = []
    for (rod, d), mm in fed.items():
        there = [one for one in shop.rods or () if one.rod == rod and one.diameter_mm == d]
        long = next((one.length_mm for one in there), catalogue.load_rod_sizes().rod_length_mm)
        have = None if shop.rods is None else float(sum(one.count for one in there))
        words = StoredText(
            *(
                f"{rod} {stock(d).text(habit)}, {length(long).text(habit)} long"
                for habit in ("mm", "in")
            )
        )
        found.append(
            Item(
                "rods",
                f"{rod}/{d:g}",
                words,
                math.ceil(round(mm / long, 6)),
                have,
                "rods",
                _find_price(there),
            )
        )
    return found


def _list_tungstens(runs: Sequence[Task], shop: Shop) -> list[Item]:
    """One of each type and size: it is ground again whenever it touches."""
    found = []
    for kind, d in dict.fromkeys((t.torch.tungsten, t.torch.tungsten_mm) for t in runs):
        there = [one for one in shop.tungstens or () if one.type == kind and one.diameter_mm == d]
        have = None if shop.tungstens is None else float(sum(one.count for one in there))
        name = (
            catalogue.load_tungsten_types()[kind].name
            if kind in catalogue.load_tungsten_types()
            else kind
        )
        words = StoredText(*(f"{name} {stock(d).text(habit)}" for habit in ("mm", "in")))
        found.append(
            Item("tungstens", f"{kind}/{d:g}", words, 1, have, "pieces", _find_price(there))
        )
    return found


def _list_bars(runs: Sequence[Task], shop: Shop) -> list[Item]:
    """Bars of each metal: as many as lie at one seam at once; they are used again."""
    most: dict[str, int] = {}
    for task in runs:
        cover = catalogue.back_covers().get(task.plan.back.cover)
        if task.plan.back.barred and cover is not None and cover.metal:
            most[cover.metal] = max(most.get(cover.metal, 0), len(list_bar_faces(task.plan)))
    found = []
    for metal, need in most.items():
        there = [one for one in shop.bars or () if one.metal == metal]
        have = None if shop.bars is None else float(sum(one.count for one in there))
        words = f"{metal} bars"
        found.append(
            Item("bars", metal, StoredText(words, words), need, have, "pieces", _find_price(there))
        )
    return found


def _find_price(there: Sequence[object]) -> float | None:
    return next(
        (price for one in there if (price := getattr(one, "price", None)) is not None), None
    )
