"""The shop: entry, counts, import; and a set-up compared with the last one."""

import json
import threading
import unittest
from unittest import mock

from tests.samples import CORNER, SHOP, TEE
from tests.schemas import check
from tests.store_case import StoreCase
from wisearc.core import catalogue
from wisearc.core.errors import InputError, UnknownName
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.data import make_item, make_shop
from wisearc.core.shop.shop import ASSUMED, LISTS
from wisearc.forms import shop_items
from wisearc.services.inventory import shop, shop_files
from wisearc.services.inventory.shop import load_shop
from wisearc.services.maintenance import demo
from wisearc.services.procedures import procedures
from wisearc.services.set_up import checklists
from wisearc.store import shelf
from wisearc.store.database import db, open_transaction
from wisearc.store.errors import Missing, NotAllowed

CUP = {"kind": "cup", "family": "large", "cup": 8, "fits": "gas-lens"}


def enter(key: str, data: object) -> None:
    shop.enter(make_item(key, data))


class Entered(StoreCase):
    def line(self, key: str = "parts", at: int = 0) -> int:
        return shop.list_lines(key)[at].id

    def test_empty_shop_is_assumed_full_until_a_list_is_entered(self) -> None:
        self.assertFalse(load_shop().entered)
        enter("parts", CUP)
        self.assertEqual([p.cup for p in load_shop().parts], [8])
        shop.archive_line(self.line())
        self.assertEqual((load_shop().parts, load_shop().rods), ((), None))
        shop.mark_none("rods")
        self.assertEqual(load_shop().rods, ())
        shop.mark_none("rods", False)
        self.assertIsNone(load_shop().rods)
        with self.assertRaises(NotAllowed):
            enter("rods", {"rod": "ER308L", "diameter_mm": 1.0})
            shop.mark_none("rods", False)

    def test_same_item_adds_up_and_duplicate_name_is_refused(self) -> None:
        enter("parts", {**CUP, "count": 2})
        enter("parts", {**CUP, "count": 3})
        self.assertEqual([row.count for row in shop.list_lines("parts")], [5])
        enter("machines", {"name": "m"})
        with self.assertRaisesRegex(InputError, "is already in"):
            enter("machines", {"name": "m", "most_a": 160})
        enter("cylinders", {"water_l": 50, "bar": 200})
        enter("cylinders", {"water_l": 50, "bar": 20})
        self.assertEqual([c.name for c in load_shop().cylinders], ["cylinder 1", "cylinder 2"])

    def test_a_count_and_a_list_are_limited(self) -> None:
        enter("parts", {**CUP, "count": 99_999})
        enter("parts", CUP)
        with self.assertRaisesRegex(InputError, "must be at most 100000"):
            enter("parts", CUP)
        with mock.patch.object(shop, "MAX_ITEMS", 2):
            enter("parts", {**CUP, "cup": 10})
            with self.assertRaisesRegex(InputError, "has 2 lines, which is the maximum"):
                enter("parts", {**CUP, "cup": 12})
            # a second entry of the same part adds no line
            enter("parts", {**CUP, "cup": 10})

    def test_the_pressure_is_of_a_cylinder(self) -> None:
        enter("cylinders", {"water_l": 50, "bar": 200})
        shop.set_pressure(self.line("cylinders"), 90)
        self.assertEqual([c.bar for c in load_shop().cylinders], [90])
        enter("parts", CUP)
        with self.assertRaisesRegex(Missing, "is not a cylinder"):
            shop.set_pressure(self.line(), 90)

    def test_counts_change_by_the_amount_and_stay_above_zero(self) -> None:
        enter("parts", {**CUP, "count": 2})
        self.assertEqual((shop.add(self.line(), -1), shop.add(self.line(), 4)), (1, 5))
        for more, words in ((-6, "below 0: 5 are in stock"), (100_000, "at most 100000")):
            with self.assertRaisesRegex(InputError, words):
                shop.add(self.line(), more)
        self.assertEqual(shop.list_lines("parts")[0].count, 5)
        with self.assertRaises(Missing):
            shop.add(99, 1)

    def test_two_simultaneous_changes_are_both_saved(self) -> None:
        enter("parts", CUP)
        number = self.line()

        def more() -> None:
            for _ in range(5):
                shop.add(number, 1)
            db.close()

        threads = [threading.Thread(target=more) for _ in range(2)]
        for hand in threads:
            hand.start()
        for hand in threads:
            hand.join()
        self.assertEqual(shop.list_lines("parts")[0].count, 11)

    def test_archive_and_restore(self) -> None:
        enter("parts", {**CUP, "count": 7})
        number = self.line()
        shop.archive_line(number)
        with self.assertRaises(Missing):
            shop.add(number, 1)
        self.assertEqual([row.count for row in shop.list_archived_lines()], [7])
        shop.restore_line(number)
        self.assertEqual([p.count for p in load_shop().parts], [7])

    def test_change_is_saved_with_its_reference(self) -> None:
        enter("machines", {"name": "old"})
        enter("torches", {"name": "t", "size": "9", "machine": "old"})
        self.assertEqual((load_shop().bench_machine, load_shop().bench_torch), ("old", "t"))
        shop.edit(self.line("machines"), make_item("machines", {"name": "new", "pulse": None}))
        now = load_shop()
        self.assertEqual(
            (now.bench_machine, now.torches[0].machine, now.machines[0].pulses),
            ("new", "new", False),
        )
        with self.assertRaisesRegex(InputError, "above the maximum"):
            make_item("machines", {"name": "new", "least_a": 50, "most_a": 40})

    def test_a_torch_outlives_its_machine(self) -> None:
        enter("machines", {"name": "a"})
        enter("machines", {"name": "b"})
        enter("torches", {"name": "t", "machine": "a"})
        shop.archive_line(self.line("machines"))
        now = load_shop()
        self.assertEqual(
            ([m.name for m in now.machines], now.torches[0].machine, now.bench_machine),
            (["b"], "", ""),
        )
        self.assertEqual(make_plan(make_joint(CORNER), now).shop.torch, "t")
        with self.assertRaisesRegex(InputError, "the archive"):
            shop.edit(self.line("machines"), make_item("machines", {"name": "a"}))

    def test_items_in_use_fit_together(self) -> None:
        enter("machines", {"name": "a"})
        enter("machines", {"name": "b"})
        enter("torches", {"name": "t", "machine": "a"})
        shop.set_bench("a", "t")
        with self.assertRaisesRegex(InputError, "is used with a"):
            shop.set_bench("b", "t")
        with self.assertRaises(UnknownName):
            shop.set_bench("c", "")

    def test_the_same_shop_until_it_is_changed(self) -> None:
        enter("parts", CUP)
        first = load_shop()
        self.assertIs(load_shop(), first)
        shop.add(self.line(), 1)
        self.assertIsNot(load_shop(), first)
        self.assertEqual(load_shop().parts[0].count, 2)
        with open_transaction():
            shelf.set_head(name="x")
        self.assertEqual(load_shop().name, "x")

    def test_starter_list_is_complete_and_entered_once(self) -> None:
        lines = shop.read_starter_list()
        self.assertEqual({s.key for s in lines}, set(LISTS))
        self.assertEqual(shop.tick([s.number for s in lines]), len(lines))
        self.assertEqual(shop.tick([0, 1]), 0)
        self.assertTrue(all(s.stands for s in shop.read_starter_list()))
        plan = make_plan(make_joint(CORNER), load_shop())
        self.assertTrue(all(part.owned for part in plan.shop.build))


class Files(StoreCase):
    def take(self, data: object, name: str = "shop.json", **more: object) -> shop_files.Preview:
        raw = (
            data
            if isinstance(data, bytes)
            else (data if isinstance(data, str) else json.dumps(data)).encode()
        )
        return shop_files.import_file(raw, name, **more)

    def test_export_and_import(self) -> None:
        self.take(SHOP)
        text = shop_files.shop_text(load_shop())
        check("shop", json.loads(text))
        told = json.loads(text)
        for key in ("name", "machines", "torches", "rods", "bars", "has"):
            self.assertEqual(told[key], SHOP[key])
        self.other_shop()
        self.take(text)
        self.assertEqual(shop_files.shop_text(load_shop()), text)
        for key in LISTS:
            self.assertTrue(
                shop_files.preview_file(shop_files.list_text(key).encode(), f"{key}.csv").nothing,
                key,
            )

    def test_shop_file_replaces_its_lists_and_csv_adds_rows(self) -> None:
        self.take(SHOP)
        text = "rod,diameter_mm,count\nER316L,1.6,4\nER308L,1.0,7\n"
        seen = shop_files.preview_file(text.encode(), "rods.csv")
        self.assertEqual(
            (
                len(seen.lists["rods"]["new"]),
                [w.rpartition(": ")[2] for w in seen.lists["rods"]["changed"]],
                seen.lists["rods"]["gone"],
            ),
            (1, ["40 → 7"], []),
        )
        alone = shop_files.preview_file(b"rod,diameter_mm,count\nER316L,1.6,4\n", "rods.csv")
        self.assertEqual(alone.lists["rods"]["gone"], [])
        self.assertEqual(len(shop.list_lines("rods")), 1)
        self.take(text, "rods.csv")
        self.assertEqual([r.count for r in load_shop().rods], [7, 4])
        removed = self.take(
            {"format": "wisearc/shop", "version": 1, "rods": [{"rod": "ER347", "diameter_mm": 1.0}]}
        )
        self.assertEqual(len(removed.lists["rods"]["gone"]), 2)
        self.assertEqual([r.rod for r in load_shop().rods], ["ER347"])
        self.assertEqual(len(load_shop().tungstens), 1)

    def test_preview_of_changed_items(self) -> None:
        self.take(
            {**SHOP, "machines": [{"name": "bench", "most_a": 150}], "torches": []}
            | {"cylinders": [{"name": "left", "water_l": 10, "bar": 150}]}
        )
        told = {
            **SHOP,
            "machines": [{"name": "bench", "most_a": 200}],
            "torches": [],
            "cylinders": [{"name": "left", "water_l": 10, "bar": 90.5}],
        }
        found = shop_files.preview_file(json.dumps(told).encode(), "shop.json").lists
        (machine,), (cylinder,) = found["machines"]["changed"], found["cylinders"]["changed"]
        before, after = machine.split(" → ")
        self.assertIn("most_a 150", before)
        self.assertIn("most_a 200", after)
        self.assertNotIn("name", after)
        self.assertNotIn("None", after)
        self.assertTrue(cylinder.endswith(": 150 bar → 90.5 bar"), cylinder)

    def test_the_same_thing_twice_in_a_shop_file_is_one(self) -> None:
        self.take(
            {
                "format": "wisearc/shop",
                "version": 1,
                "parts": [{**CUP, "count": 2}, {**CUP, "count": 3}],
                "cylinders": [{"water_l": 5, "bar": 9}] * 2,
            }
        )
        self.assertEqual(
            ([p.count for p in load_shop().parts], len(load_shop().cylinders)), ([5], 2)
        )

    def test_imported_file_is_the_previewed_file(self) -> None:
        twice = {
            "format": "wisearc/shop",
            "version": 1,
            "parts": [{**CUP, "count": 2}, {**CUP, "count": 3}],
        }
        self.take({**twice, "parts": [CUP]})
        self.assertIn(
            "1 → 5",
            shop_files.preview_file(json.dumps(twice).encode(), "s.json").lists["parts"]["changed"][
                0
            ],
        )
        enter("cylinders", {"water_l": 50, "bar": 200})
        self.take("water_l,bar\n10,30\n5,20\n", "c.csv")
        self.assertEqual(
            [(c.name, c.water_l) for c in load_shop().cylinders],
            [("cylinder 1", 50), ("cylinder 2", 10), ("cylinder 3", 5)],
        )

    def test_bad_lines_keep_the_good_ones_out_unless_asked(self) -> None:
        text = "rod,diameter_mm,count\nER308L,1.0,7\nER3,1,1\n"
        with self.assertRaisesRegex(InputError, "line 3.*must be one of"):
            self.take(text, "rods.csv")
        self.assertFalse(load_shop().entered)
        done = self.take(text, "rods.csv", good_only=True)
        self.assertEqual((len(done.bad), len(load_shop().rods)), (1, 1))
        with self.assertRaisesRegex(InputError, "must be one of the machines"):
            self.take({**SHOP, "torches": [{"name": "t", "size": "9", "machine": "x"}]})


class ItemLabels(unittest.TestCase):
    def test_every_item_is_recognised_by_its_label(self) -> None:
        for habit in ("mm", "in"):
            for words in shop_items.list_known_names(habit):
                self.assertIsNotNone(shop_items.find_meant_item(words.upper())[0], words)

    def test_similar_labels(self) -> None:
        found, _ = shop_items.find_meant_item("cup no 8 large lens")
        self.assertEqual((found.kind, found.cup, found.family), ("cup", 8, "large"))
        self.assertEqual(shop_items.find_meant_item("er316l 1,6")[0].diameter_mm, 1.6)
        none, near = shop_items.find_meant_item("cup 8")
        self.assertIsNone(none)
        self.assertTrue(all("no. 8" in words for words in near) and len(near) == 4)
        self.assertEqual(shop_items.find_meant_item("spoon"), (None, []))


class SetUp(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.corner, self.tee = (make_plan(make_joint(data), ASSUMED) for data in (CORNER, TEE))

    def view(self, what: str = "a", plan=None, habit: str = "mm") -> checklists.SetView:
        return checklists.view(what, "", plan or self.corner, load_shop(), habit)

    def tick(self, key: str, on: bool = True, what: str = "a") -> None:
        checklists.tick(what, "", self.corner, load_shop(), key, on)

    def done(self, what: str = "a", plan=None) -> None:
        checklists.set_done(what, "", plan or self.corner, load_shop(), "", open_too=True)

    def test_finishing_with_open_lines_is_confirmed_and_recorded(self) -> None:
        self.tick("gas")
        with self.assertRaises(checklists.LinesOpen) as caught:
            checklists.set_done("a", "", self.corner, load_shop(), "")
        lines = len(self.view().lines)
        self.assertIn(f"{lines - 1} of {lines} lines are not ticked", caught.exception.rule)
        self.assertIsNone(self.view().set_at)
        checklists.set_done("a", "", self.corner, load_shop(), "", open_too=True)
        self.assertEqual(len(self.view().left_open), lines - 1)
        for line in self.view("b").lines:
            self.tick(line.key, what="b")
        checklists.set_done("b", "", self.corner, load_shop(), "")
        self.assertEqual(self.view("b").left_open, ())

    def test_ticks_stay_each_by_itself(self) -> None:
        for key, on in (("gas", True), ("set", True), ("gas", False), ("rod", True)):
            self.tick(key, on)
        self.assertEqual((self.view().ticked, self.view().done), ({"set", "rod"}, 2))
        self.assertEqual(self.view("b").ticked, frozenset())
        with self.assertRaises(UnknownName):
            self.tick("spoon")

    def test_difference_from_the_last_setting_of_the_machine(self) -> None:
        self.assertEqual((self.view().last, self.view().differing), ("", 0))
        self.done()
        self.done()
        same, other = self.view("b"), self.view("c", self.tee)
        self.assertEqual((same.differing, same.last), (0, self.corner.title.text()))
        was = {line.key: line.was for line in other.lines if line.was}
        self.assertIn("pulse", was)
        self.assertNotIn("metal", was)
        self.assertEqual(
            was["set"], next(line.setting for line in self.view().lines if line.key == "set")
        )
        self.assertIn(
            " in", {line.key: line.was for line in self.view("c", self.tee, "in").lines}["tacks"]
        )
        enter("machines", {"name": "another"})
        self.assertEqual(self.view("c", self.tee).differing, 0)

    def test_record_shows_the_final_settings(self) -> None:
        self.tick("gas")
        self.done(plan=self.tee)
        self.assertEqual(self.view("b", self.tee).differing, 0)
        self.assertGreater(self.view("b").differing, 0)

    def test_finished_set_up_stays_until_restarted(self) -> None:
        self.tick("gas")
        self.done()
        self.assertIsNotNone(self.view().set_at)
        with self.assertRaises(NotAllowed):
            self.tick("set")
        checklists.restart_set_up("a", "", self.corner, load_shop())
        self.assertEqual((self.view().set_at, self.view().ticked), (None, frozenset()))

    def test_every_line_has_an_action_and_a_unique_key(self) -> None:
        for plan in (self.corner, self.tee):
            lines = self.view(plan=plan).lines
            self.assertEqual(len({line.key for line in lines}), len(lines))
            self.assertTrue(all(line.not_so and line.name and line.setting for line in lines))
        keys = [line.key for line in self.view().lines]
        self.assertEqual(
            [
                key
                for key in keys
                if key in ("ring", "body", "cup", "collet", "tungsten", "back-cap")
            ],
            ["ring", "body", "cup", "collet", "tungsten", "back-cap"],
        )
        self.assertLess(keys.index("set"), keys.index("gas"))

    def test_a_kept_build_is_looked_for_on_the_shelf_of_today(self) -> None:
        kept = procedures.get_plan(procedures.keep_draft(make_joint(CORNER), ASSUMED))
        self.assertEqual({part.owned for part in self.view(plan=kept).plan.shop.build}, {None})
        shop_files.replace_lists(make_shop({"parts": [CUP]}))
        owned = {part.part: part.owned for part in self.view(plan=kept).plan.shop.build}
        self.assertEqual((owned["cup"], owned["collet"], owned["tungsten"]), (True, False, None))
        self.assertTrue(
            next(line for line in self.view(plan=kept).lines if line.key == "collet").missing
        )
        needed = kept.tungsten
        other = next(key for key in catalogue.load_tungsten_types() if key != needed.type)
        for kind, there in ((needed.type, True), (other, False)):
            tungsten = {"type": kind, "diameter_mm": needed.diameter_mm, "count": 1}
            shop_files.replace_lists(make_shop({"tungstens": [tungsten]}))
            owned = {part.part: part.owned for part in self.view(plan=kept).plan.shop.build}
            self.assertEqual(owned["tungsten"], there)


class Demo(StoreCase):
    def test_each_joint_of_the_demo_wants_something_its_shelf_lacks(self) -> None:
        demo.fill_if_empty(self.store)
        db.connect(reuse_if_open=True)
        entered = load_shop()
        self.assertEqual((len(entered.machines), len(entered.torches)), (2, 2))
        self.assertEqual([m.pulses for m in entered.machines], [True, False])
        for number in range(1, 9):
            data = procedures.get_plan(
                procedures.queries.get_revision(f"P-{number:04d}", "A")
            ).joint
            data = {k: v for k, v in data.items() if v is not None}
            with self.subTest(number):
                plan = make_plan(make_joint(data), entered)
                self.assertTrue(plan.shop.instead or plan.shop.short)
