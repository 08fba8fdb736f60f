"""Torch parts of a plan in the inventory of today, and the machine of a set-up."""

from __future__ import annotations

import unittest
from typing import Any

from msgspec.structs import replace

from tests.approved.shops import SHOPS
from tests.samples import CORNER
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.shop.shop import ASSUMED, Shop
from wisearc.services.set_up.checklists import choose_machine, mark_stock

SHOP = SHOPS["pulsed"]


class Inventory(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = make_plan(make_joint(CORNER), SHOP)

    def owned(self, shop: Shop, plan: Plan | None = None) -> dict[str, Any]:
        today = mark_stock(plan or self.plan, shop)
        return {part.part: part.owned for part in today.shop.build}

    def test_all_parts_in_stock(self) -> None:
        self.assertEqual(set(self.owned(SHOP).values()), {True})

    def test_unknown_without_a_list(self) -> None:
        found = self.owned(replace(SHOP, parts=None))
        self.assertTrue(found.pop("tungsten"))
        self.assertEqual(set(found.values()), {None})
        self.assertIsNone(self.owned(replace(SHOP, tungstens=None))["tungsten"])
        self.assertIs(mark_stock(self.plan, ASSUMED), self.plan)

    def test_tungsten_of_another_type_or_size(self) -> None:
        type_, size = self.plan.tungsten.type, self.plan.tungsten.diameter_mm
        for row, owned in (
            ({"type": type_, "diameter_mm": size}, True),
            ({"type": type_, "diameter_mm": size + 0.8}, False),
            ({"type": "thoriated-2", "diameter_mm": size}, False),
        ):
            stock = (replace((SHOP.tungstens or ())[0], **row),)
            with self.subTest(row=row):
                self.assertEqual(self.owned(replace(SHOP, tungstens=stock))["tungsten"], owned)

    def test_back_cap_of_another_family(self) -> None:
        for family, owned in (("large", True), ("small", False)):
            kept = tuple(
                part
                for part in SHOP.parts or ()
                if part.kind != "back-cap" or part.family == family
            )
            with self.subTest(family=family):
                self.assertEqual(self.owned(replace(SHOP, parts=kept))["back-cap"], owned)

    def test_machine_of_the_plan_in_the_shop(self) -> None:
        self.assertEqual(self.plan.shop.machine, "pulsed")
        other = replace(SHOP, bench_machine="plain")
        self.assertEqual(choose_machine(self.plan, other), "pulsed")
        gone = replace(other, machines=tuple(m for m in SHOP.machines or () if m.name == "plain"))
        self.assertEqual(choose_machine(self.plan, gone), "plain")
        bare = make_plan(make_joint(CORNER), ASSUMED)
        self.assertEqual(choose_machine(bare, other), "plain")


if __name__ == "__main__":
    unittest.main()
