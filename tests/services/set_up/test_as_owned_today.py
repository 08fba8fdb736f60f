"""A build as it lies on the shelf today, and the machine that a procedure is set on."""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any

from tests.approved.shops import SHOPS
from tests.samples import CORNER
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.shop.shop import ASSUMED, Shop
from wisearc.services.set_up.setting_up import _machine, as_owned_today

SHOP = SHOPS["pulsed"]


class Today(unittest.TestCase):
    def setUp(self) -> None:
        self.plan = make_plan(make_joint(CORNER), SHOP)

    def owned(self, shop: Shop, plan: Plan | None = None) -> dict[str, Any]:
        today = as_owned_today(plan or self.plan, shop)
        return {part.part: part.owned for part in today.shop.build}

    def test_as_it_was_built(self) -> None:
        self.assertEqual(set(self.owned(SHOP).values()), {True})

    def test_nothing_is_known_of_a_list_that_was_not_entered(self) -> None:
        found = self.owned(replace(SHOP, parts=None))
        self.assertTrue(found.pop("tungsten"))
        self.assertEqual(set(found.values()), {None})
        self.assertIsNone(self.owned(replace(SHOP, tungstens=None))["tungsten"])
        self.assertIs(as_owned_today(self.plan, ASSUMED), self.plan)

    def test_another_type_of_tungsten_is_not_this_one(self) -> None:
        type_, size = self.plan.tungsten.type, self.plan.tungsten.diameter_mm
        for row, owned in (
            ({"type": type_, "diameter_mm": size}, True),
            ({"type": type_, "diameter_mm": size + 0.8}, False),
            ({"type": "thoriated-2", "diameter_mm": size}, False),
        ):
            stock = (replace((SHOP.tungstens or ())[0], **row),)
            with self.subTest(row=row):
                self.assertEqual(self.owned(replace(SHOP, tungstens=stock))["tungsten"], owned)

    def test_a_cap_of_the_other_family_does_not_fit(self) -> None:
        for family, owned in (("large", True), ("small", False)):
            kept = tuple(
                part
                for part in SHOP.parts or ()
                if part.kind != "back-cap" or part.family == family
            )
            with self.subTest(family=family):
                self.assertEqual(self.owned(replace(SHOP, parts=kept))["back-cap"], owned)

    def test_the_machine_of_the_plan_where_it_is_still_there(self) -> None:
        self.assertEqual(self.plan.shop.machine, "pulsed")
        other = replace(SHOP, bench_machine="plain")
        self.assertEqual(_machine(self.plan, other), "pulsed")
        gone = replace(other, machines=tuple(m for m in SHOP.machines or () if m.name == "plain"))
        self.assertEqual(_machine(self.plan, gone), "plain")
        bare = make_plan(make_joint(CORNER), ASSUMED)
        self.assertEqual(_machine(bare, other), "plain")


if __name__ == "__main__":
    unittest.main()
