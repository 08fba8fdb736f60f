"""Shop files and their lists as CSV: round trips, and line and reason of each error."""

import random
import unittest

from msgspec.structs import replace

from tests.core.shop.test_within_a_shop import build_random_shop
from tests.samples import SHOP
from wisearc.core.errors import InputError
from wisearc.core.shop.data import find_identity, make_shop, shop_data
from wisearc.core.shop.shop import LISTS
from wisearc.formats.shop_json import csv_text, decode_text, read_csv, read_shop, write_shop_file


class RoundTrips(unittest.TestCase):
    def test_generated_shops(self) -> None:
        rng = random.Random(3)
        for _ in range(200):
            shop = replace(build_random_shop(rng), cylinders=None)
            self.assertEqual(shop_data(read_shop(write_shop_file(shop))), shop_data(shop))
            for key in LISTS:
                if getattr(shop, key):
                    sheet = read_csv(csv_text(key, shop), key)
                    first = {find_identity(item): item for item in reversed(getattr(shop, key))}
                    self.assertEqual(
                        [line.item for line in sheet.good],
                        [
                            first[mark]
                            for mark in dict.fromkeys(
                                find_identity(item) for item in getattr(shop, key)
                            )
                        ],
                    )
                    self.assertTrue(all("repeats line" in line.wrong for line in sheet.bad))

    def test_missing_list_is_unknown_and_empty_list_means_none_owned(self) -> None:
        shop = read_shop({"format": "wisearc/shop", "version": 1, "rods": []})
        self.assertEqual((shop.rods, shop.parts, shop.entered), ((), None, True))
        self.assertEqual(
            write_shop_file(shop), {"format": "wisearc/shop", "version": 1, "rods": []}
        )
        self.assertFalse(read_shop({"format": "wisearc/shop", "version": 1}).entered)

    def test_missing_values_use_defaults(self) -> None:
        """A machine from 5 to 200 A that pulses from 0.5 to 250 a second, starts by HF or lift.

        A whole tungsten 175 mm, a rod a metre.
        """
        shop = make_shop(
            {
                "machines": [{"name": "m"}],
                "torches": [{"name": "t"}],
                "tungstens": [{"type": "lanthanated-2", "diameter_mm": 1.6}],
                "rods": [{"rod": "ER308L", "diameter_mm": 1}],
                "bars": [{"metal": "copper"}],
                "cylinders": [{"water_l": 50, "bar": 200}],
            }
        )
        told = shop_data(shop)
        self.assertEqual(
            told["machines"][0],
            {
                "name": "m",
                "least_a": 5,
                "most_a": 200,
                "pulse": {"least_pps": 0.5, "most_pps": 250},
                "slopes": True,
                "preflow_most_s": 10,
                "postflow_most_s": 30,
                "starts": ["hf", "lift"],
                "controls": ["pedal", "slide"],
            },
        )
        self.assertEqual(
            (
                told["torches"][0]["size"],
                told["tungstens"][0]["length_mm"],
                told["rods"][0]["length_mm"],
            ),
            ("17", 175, 1000),
        )
        self.assertEqual(
            told["bars"][0],
            {
                "metal": "copper",
                "length_mm": 100,
                "width_mm": 25,
                "thickness_mm": 6,
                "grooved": False,
                "count": 1,
            },
        )
        self.assertEqual(told["cylinders"][0]["purity_pct"], 99.996)

    def test_cup_fits_a_gas_lens_by_default(self) -> None:
        shop = make_shop({"parts": [{"kind": "cup", "family": "large", "cup": 8}]})
        self.assertIn(("cup", "large", None, 8, "gas-lens"), shop.shelf)
        self.assertNotIn(("cup", "large", None, 8, "plain"), shop.shelf)


class Refused(unittest.TestCase):
    def test_each_by_field_and_rule(self) -> None:
        def wrong(**more: object) -> str:
            with self.assertRaises(InputError) as caught:
                read_shop({**SHOP, **more})
            return str(caught.exception)

        machine, torch = SHOP["machines"][0], SHOP["torches"][0]
        for words, more in (
            (
                "machines[0].least_a “60” is above the maximum, 50 A",
                {"machines": [{**machine, "least_a": 60, "most_a": 50}]},
            ),
            ("must be from 0.5 to 100 A", {"machines": [{**machine, "least_a": 0}]}),
            ("machines.name “bench 200” appears twice", {"machines": [machine, machine]}),
            ("must be one of the machines", {"torches": [{**torch, "machine": "bench 201"}]}),
            ("count “-1” must be from 0", {"rods": [{**SHOP["rods"][0], "count": -1}]}),
            ("count “1.5” must be a whole number", {"rods": [{**SHOP["rods"][0], "count": 1.5}]}),
            ("Did you mean ER308L?", {"rods": [{**SHOP["rods"][0], "rod": "er308l"}]}),
            (
                "must be a size that is sold",
                {"tungstens": [{**SHOP["tungstens"][0], "diameter_mm": 1.59}]},
            ),
            ("fits one size of tungsten", {"parts": [{"kind": "collet", "family": "large"}]}),
            ("Enter the cup number", {"parts": [{"kind": "cup", "family": "large"}]}),
            (
                "has no collet body",
                {"parts": [{"kind": "collet-body", "family": "stubby", "tungsten_mm": 1.6}]},
            ),
            ("rods[0].rod is missing", {"rods": [{"diameter_mm": 1}]}),
            ("bench_machine “x” must be one of the entries", {"bench_machine": "x"}),
            ("is not a key of a shop", {"tools": []}),
            (
                "pulse.least_pps “21” is above the maximum",
                {"machines": [{**machine, "pulse": {"least_pps": 21, "most_pps": 20}}]},
            ),
            ("name “ ” is missing", {"machines": [{**machine, "name": " "}]}),
        ):
            with self.subTest(words):
                text = wrong(**more)
                self.assertIn(words, text)


class Csv(unittest.TestCase):
    def test_line_by_line(self) -> None:
        text = (
            "Kind;Family;cup;fits;count\r\ncup;large;8;gas-lens;3\r\n\r\ncup;large;x;;\r\n"
            "cup;huge;8;;2\r\ncup;large;8;gas-lens;1\r\ncup;large;7;plain;-1\r\n"
            "cup;large;7;plain;2;9\r\n"
        )
        sheet = read_csv(text)
        self.assertEqual(
            (sheet.key, [line.number for line in sheet.good], [line.number for line in sheet.bad]),
            ("parts", [2], [4, 5, 6, 7, 8]),
        )
        told = " / ".join(line.wrong for line in sheet.bad)
        for words in (
            "cup must be a number",
            "must be one of small, large, stubby",
            "repeats line 2",
            "must be from 0",
            "6 cells under 5 headings",
        ):
            self.assertIn(words, told)

    def test_decimal_commas_tabs_and_quotes(self) -> None:
        self.assertEqual(
            read_csv("rod;diameter_mm;count\nER308L;1,6;3\n").good[0].item.diameter_mm, 1.6
        )
        self.assertEqual(read_csv('rod\tdiameter_mm\n"ER308L"\t1,6\n').good[0].item.count, 1)
        self.assertIn("cells under", read_csv("rod,diameter_mm\nER308L,1,6\n").bad[0].wrong)

    def test_headings_and_encodings(self) -> None:
        for text, words in (
            ("a,b\n1,2\n", "do not match a list"),
            ("rod,diameter\nER308L,1\n", "“diameter” is not one of rods"),
            ("rod,count\nER308L,1\n", "diameter_mm"),
            ("", "is empty"),
            ("rod,rod,diameter_mm\n", "appears twice"),
            ("rod,diameter_mm\n" + "ER308L,1\n" * 2001, "at most 2000"),
        ):
            with self.subTest(words), self.assertRaises(InputError) as caught:
                read_csv(text)
            self.assertIn(words, str(caught.exception))
        self.assertEqual(decode_text("\ufeffü".encode()), "ü")
        self.assertEqual(decode_text("ü".encode("utf-16")), "ü")
        for raw in ("ü".encode("latin-1"), b"x" * (2 * 1024 * 1024 + 1)):
            with self.assertRaises(InputError):
                decode_text(raw)

    def test_a_name_that_a_spreadsheet_would_run_is_text(self) -> None:
        shop = make_shop({"machines": [{"name": "=1+1"}]})
        text = csv_text("machines", shop)
        self.assertIn("'=1+1", text)
        self.assertEqual(read_csv(text).good[0].item.name, "=1+1")
