"""One search over joints, procedures, jobs, equipment and terms."""

from __future__ import annotations

from tests.store_case import StoreCase
from wisearc.core.shop.data import make_item
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.inventory import shop
from wisearc.services.jobs import jobs
from wisearc.services.start.finder import Results, find_anything, find_number


class Finder(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        shop.enter(make_item("parts", {"kind": "cup", "family": "large", "cup": 8}))
        jobs.begin("Mast foot", "")

    def find(self, search: str, units: str = "mm") -> Results:
        return find_anything(search, units, ASSUMED)

    def test_nothing_is_found_for_nothing(self) -> None:
        for search in ("", "   ", "zirconium flange"):
            found = self.find(search)
            self.assertTrue(found.is_empty, search)
            self.assertEqual((found.stock, found.jobs, found.joint), ((), (), None))

    def test_each_kind_alone_is_a_result(self) -> None:
        for search, name in (
            ("mast foot", "jobs"),
            ("cup 8", "stock"),
            ("keyhole", "terms"),
            ("2 mm 316L butt", "joint"),
        ):
            found = self.find(search)
            self.assertFalse(found.is_empty, search)
            self.assertTrue(getattr(found, name), search)

    def test_every_word_must_match(self) -> None:
        self.assertEqual(len(self.find("mast").jobs), 1)
        self.assertEqual(self.find("mast roof").jobs, ())
        self.assertEqual(self.find("cup 7").stock, ())

    def test_one_word_is_no_joint(self) -> None:
        self.assertIsNone(self.find("lap").joint)
        self.assertIsNone(self.find("316L").joint)
        found = self.find("316L lap")
        self.assertIsNotNone(found.joint)
        self.assertIn("lap", found.title)

    def test_sizes_are_found_in_both_unit_systems(self) -> None:
        shop.enter(make_item("tungstens", {"type": "lanthanated-2", "diameter_mm": 1.6}))
        for units in ("mm", "in"):
            for search in ("lanthanated 1.6", "lanthanated 1/16"):
                self.assertEqual(len(self.find(search, units).stock), 1, (units, search))

    def test_number_of_a_procedure(self) -> None:
        self.assertEqual(find_number(" p-12 "), "P-0012")
        self.assertEqual(find_number("cup 12"), "")
