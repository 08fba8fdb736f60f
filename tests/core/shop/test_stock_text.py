"""Equipment typed in the words of the bench."""

import math
import unittest
from typing import Any

from wisearc.core.errors import InputError
from wisearc.core.shop.data import item_data, make_item
from wisearc.core.shop.shop import Bar, Cylinder, Item, Machine, OwnTorch, Part, RodStock, Shop
from wisearc.core.shop.stock_text import (
    StockList,
    read_stock_item,
    read_stock_text,
    split_stock_text,
)

# The sixteen lines of the task of a beginner, as typed, with what each means.
LINES: tuple[tuple[str, str, dict[str, Any]], ...] = (
    ("#6 cup", "parts", {"kind": "cup", "cup": 6}),
    ("cup 8 lens", "parts", {"kind": "cup", "cup": 8, "fits": "gas-lens"}),
    ("5 cup", "parts", {"kind": "cup", "cup": 5}),
    ("large gas lens 3/32", "parts", {"kind": "gas-lens", "family": "large", "tungsten_mm": 2.4}),
    ("gas lens 1/16", "parts", {"kind": "gas-lens", "tungsten_mm": 1.6}),
    ("collet 1/16", "parts", {"kind": "collet", "tungsten_mm": 1.6}),
    (
        "1/16 2% lanthanated x 10",
        "tungstens",
        {"type": "lanthanated-2", "diameter_mm": 1.6, "count": 10},
    ),
    ("3/32 blue", "tungstens", {"type": "lanthanated-2", "diameter_mm": 2.4}),
    ("308 1/16", "rods", {"rod": "ER308L", "diameter_mm": 1.6}),
    ("ER316L .035", "rods", {"rod": "ER316L", "diameter_mm": 0.9}),
    ("309L 1.6 1 kg", "rods", {"rod": "ER309L", "diameter_mm": 1.6}),
    ("argon 50 L", "cylinders", {"gas": "argon", "water_l": 50.0}),
    (
        "copper bar 150 x 25 x 6",
        "bars",
        {"metal": "copper", "length_mm": 150.0, "width_mm": 25.0, "thickness_mm": 6.0},
    ),
    ("17 torch", "torches", {"size": "17"}),
    ("long back cap", "parts", {"kind": "back-cap", "length": "long"}),
    ("200 amp machine with pulse", "machines", {"most_a": 200.0}),
)


def read(text: str, shop: Shop | None = None, units: str = "mm") -> StockList:
    return read_stock_text(text, shop or Shop(), units)


def describe(item: Item) -> dict[str, Any]:
    return dict(item_data(item))


class StockText(unittest.TestCase):
    def test_sixteen_lines_as_typed(self) -> None:
        for units in ("mm", "in"):
            for text, key, fields in LINES:
                with self.subTest(text, units=units):
                    item = read_stock_item(text, units)
                    self.assertEqual(describe(make_item(key, item_data(item))), describe(item))
                    for name, value in fields.items():
                        self.assertEqual(describe(item)[name], value)
        machine = read_stock_item("200 amp machine with pulse", "mm")
        assert isinstance(machine, Machine)
        self.assertTrue(machine.pulses)

    def test_a_pasted_list_needs_no_question(self) -> None:
        """Torch and lenses of the list decide the family and the front end of its cups."""
        found = read("\n".join(text for text, _, _ in LINES))
        self.assertEqual((found.unknown, found.choices), ((), ()))
        parts = [g.item for g in found.items if isinstance(g.item, Part)]
        self.assertEqual({part.family for part in parts}, {"large"})
        self.assertEqual({p.fits for p in parts if p.kind == "cup"}, {"gas-lens"})

    def test_open_choices_are_asked_in_one_place(self) -> None:
        both = read("gas lens 1.6, collet body 1.6, #6 cup x 3, 9 torch, 17 torch, collet 2.4")
        asked = {guess.text: guess.choice for guess in both.choices}
        self.assertEqual(
            set(asked), {"gas lens 1.6", "collet body 1.6", "#6 cup x 3", "collet 2.4"}
        )
        choice = asked["collet 2.4"]
        assert choice is not None
        self.assertEqual([label for label, _ in choice.items], ["small", "large"])
        cup = asked["#6 cup x 3"]
        assert cup is not None
        self.assertEqual(
            [label for label, _ in cup.items],
            ["small, gas lens", "small, collet body", "large, gas lens", "large, collet body"],
        )
        cups = read("gas lens 1.6, collet body 1.6, #6 cup x 3").choices
        ((_, first), (_, second)) = cups[0].choice.items if cups[0].choice else ()
        assert cups[0].choice is not None
        self.assertEqual([label for label, _ in cups[0].choice.items], ["gas lens", "collet body"])
        # The count stays through the question.
        assert isinstance(first, Part) and isinstance(second, Part)
        self.assertEqual(
            [(c.fits, c.count) for c in (first, second)], [("gas-lens", 3), ("plain", 3)]
        )

    def test_family_by_the_length_of_the_collet_body(self) -> None:
        """About 7/8 in for a small torch and 2 in for a large one: common practice."""
        for text, family in (
            ("collet body 1/16, 2 in long", "large"),
            ("collet body 1.6 22 mm long", "small"),
            ("collet body 3/32 7/8 in long", "small"),
            ("collet body 1.6 34 mm long", "small"),
            ("collet body 1.6 36 mm long", "large"),
        ):
            item = read_stock_item(text.replace(",", ""), "mm")
            assert isinstance(item, Part)
            self.assertEqual((item.family, item.kind), (family, "collet-body"), text)

    def test_the_equipment_of_the_shop_decides(self) -> None:
        small = Shop(torches=(OwnTorch("nine", "9"),), parts=(Part("gas-lens", "small", 1.6),))
        (cup,) = [g.item for g in read("#5 cup", small).items]
        assert isinstance(cup, Part)
        self.assertEqual((cup.family, cup.fits), ("small", "gas-lens"))

    def test_rods_by_mass(self) -> None:
        rods = read_stock_item("309L 1.6 1 kg", "mm")
        assert isinstance(rods, RodStock)
        one_kg = 7.9e-6 * math.pi / 4 * 1.6**2 * rods.length_mm
        self.assertEqual(rods.count, round(1 / one_kg))
        for text, count in (("309L 1.6 500 g", round(0.5 / one_kg)), ("309L 1.6 1 g", 1)):
            self.assertEqual(describe(read_stock_item(text, "mm"))["count"], count, text)
        pounds = read_stock_item("309L 1.6 2 lb", "mm")
        assert isinstance(pounds, RodStock)
        self.assertEqual(pounds.count, round(0.9072 / one_kg))

    def test_counts_sizes_and_units(self) -> None:
        for text, count in (("3/32 blue × 5", 5), ("4 x 3/32 blue", 4), ("3/32 blue 6 pcs", 6)):
            self.assertEqual(describe(read_stock_item(text, "mm"))["count"], count, text)
        bar = read_stock_item("aluminium bar 6 x 1 x 1/4", "in")
        assert isinstance(bar, Bar)
        self.assertEqual((bar.length_mm, bar.width_mm, bar.thickness_mm), (152.4, 25.4, 6.35))
        # A side of more than 48 in is a length in mm.
        for side, length_mm in ((48, 1219.2), (50, 50.0)):
            bar = read_stock_item(f"copper bar {side} x 4 x 3", "in")
            assert isinstance(bar, Bar)
            self.assertEqual(bar.length_mm, length_mm)
        cylinder = read_stock_item("argon 125 cf", "in")
        assert isinstance(cylinder, Cylinder)
        self.assertAlmostEqual(cylinder.water_l, 23.3, delta=0.5)
        # Full at 200 bar: common practice, no source.
        self.assertEqual(cylinder.bar, 200)
        machine = read_stock_item("5-160 A inverter, no pulse, pedal".replace(",", ""), "mm")
        assert isinstance(machine, Machine)
        self.assertEqual((machine.least_a, machine.most_a, machine.pulses), (5.0, 160.0, False))
        self.assertEqual(machine.controls, ("pedal",))

    def test_every_tungsten_size_and_its_tolerance(self) -> None:
        for text, mm in (("1.0", 1.0), ("1/16", 1.6), ("3/32", 2.4), ("1/8", 3.2), ("1.69", 1.6)):
            self.assertEqual(describe(read_stock_item(f"gas lens {text}", "mm"))["tungsten_mm"], mm)
            self.assertEqual(describe(read_stock_item(f"blue {text}", "mm"))["diameter_mm"], mm)
        for kind in ("gas lens", "blue"):
            with self.assertRaises(InputError):
                read_stock_item(f"{kind} 1.70", "mm")
        self.assertEqual(describe(read_stock_item("cup lens 8", "mm"))["cup"], 8)

    def test_list_is_split_at_lines_and_commas(self) -> None:
        self.assertEqual(
            split_stock_text("- #6 cup, ER316L 1,6; argon 50 L\n\n3/32 blue"),
            ["#6 cup", "ER316L 1,6", "argon 50 L", "3/32 blue"],
        )

    def test_unknown_lines_with_the_reason(self) -> None:
        found = read("flux capacitor\ngas lens\ncup\n308\nargon\ntorch\n200 A cable\nmachine")
        self.assertEqual(found.items, ())
        reasons = dict(found.unknown)
        for text, words in (
            ("flux capacitor", "not understood"),
            ("gas lens", "no tungsten size"),
            ("cup", "no number"),
            ("308", "no diameter"),
            ("argon", "no size"),
            ("torch", "no torch size"),
            ("200 A cable", "not understood"),
            ("machine", "not understood"),
        ):
            self.assertIn(words, reasons[text])
        with self.assertRaises(InputError):
            read_stock_item("nothing", "mm")
