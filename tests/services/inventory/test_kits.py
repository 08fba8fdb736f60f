"""Kits to buy, and the usual parts of an incomplete list."""

import csv
import io
from itertools import product

from tests.store_case import StoreCase
from wisearc.core import catalogue
from wisearc.core.errors import InputError, UnknownName
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.data import make_item
from wisearc.core.shop.shop import Shop
from wisearc.services.inventory import kits, shop


class Kits(StoreCase):
    def test_every_kit_is_a_shop_that_welds(self) -> None:
        """With a kit and its torch, a usual joint of the work has no part out of stock."""
        sheet = {"metal": "304L", "form": "sheet", "thickness": "1.5 mm"}
        joint = make_joint({"joint": "butt", "members": [sheet, sheet], "length_mm": 100})
        for family, work in product(kits.FAMILIES, catalogue.load_buying_works()):
            with self.subTest(family=family, work=work):
                lines = kits.build_kit(family, work, shop.load_shop())
                self.assertTrue(all(line.count > 0 and line.owned == 0 for line in lines))
                parts = tuple(line.item for line in lines if line.key == "parts")
                self.assertEqual({part.family for part in parts}, {family})
                size = "17" if family == "large" else "9"
                owned = {
                    key: tuple(line.item for line in lines if line.key == key)
                    for key in ("parts", "tungstens", "rods", "cylinders")
                }
                torch = make_item("torches", {"name": "t", "size": size})
                made = make_plan(joint, Shop(torches=(torch,), **owned))
                codes = {caution.code for caution in made.cautions if caution.level == "stop"}
                self.assertEqual(codes, set())

    def test_owned_items_are_subtracted(self) -> None:
        lines = kits.build_kit("large", "sheet", shop.load_shop())
        shop.enter(
            make_item(
                "parts",
                {"kind": "cup", "family": "large", "cup": 8, "fits": "gas-lens", "count": 2},
            )
        )
        reduced = {
            str(line.item): line for line in kits.build_kit("large", "sheet", shop.load_shop())
        }
        cup = next(line for line in reduced.values() if getattr(line.item, "cup", None) == 8)
        self.assertEqual((cup.count, cup.owned, cup.missing), (3, 2, 1))
        rows = list(csv.reader(io.StringIO(kits.kit_text(lines, "in"))))
        self.assertEqual(rows[0], ["list", "item", "count", "owned", "to_buy"])
        self.assertEqual(len(rows), len(lines) + 1)
        for family, work in (("huge", "sheet"), ("large", "boats")):
            with self.assertRaises(UnknownName):
                kits.build_kit(family, work, shop.load_shop())


class UsualParts(StoreCase):
    def test_one_part_does_not_make_all_others_none(self) -> None:
        self.assertEqual(kits.find_missing_kinds(shop.load_shop()), [])
        shop.enter(
            make_item("parts", {"kind": "cup", "family": "large", "cup": 8, "fits": "gas-lens"})
        )
        missing = kits.find_missing_kinds(shop.load_shop())
        self.assertEqual(missing, ["heat-shield", "gas-lens", "collet", "back-cap"])
        kits.add_usual_parts(shop.load_shop())
        self.assertEqual(kits.find_missing_kinds(shop.load_shop()), [])
        sizes = {p.tungsten_mm for p in shop.load_shop().parts or () if p.tungsten_mm}
        self.assertEqual(sizes, {1.6})

    def test_all_or_none_of_a_list(self) -> None:
        torch = make_item("torches", {"name": "no. 17 torch", "size": "17"})
        cup = make_item("parts", {"kind": "cup", "family": "large", "cup": 8, "fits": "gas-lens"})
        shop.enter(torch)
        with self.assertRaisesRegex(InputError, "already in the list"):
            kits.enter_all([cup, torch])
        self.assertFalse(shop.load_shop().parts)
