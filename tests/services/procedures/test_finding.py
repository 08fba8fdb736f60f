"""The list of the library and its search.

By number, title, metal, thickness in both units, rod, initials and notes.
"""

import unittest
from typing import Any
from unittest import mock

from tests.samples import member, run, tube, typed
from tests.store_case import StoreCase
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.procedures import library_search, procedures
from wisearc.services.records import LibraryFilter
from wisearc.services.runs import runs
from wisearc.store.listings import split_search


class Found(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.keep(
            joint="tee",
            members=[member("304L", "1.5 mm"), member("mild-steel", "1.5 mm")],
            title="Bracket foot",
            filler="ER309L",
        )
        self.keep(joint="outside-corner", members=[member("316L", "16 ga")] * 2, title="Tray rim")
        self.keep(
            joint="tube-butt",
            members=[tube("316L", ".065", "2 in")] * 2,
            length="all-round",
            title="Loop, straight run",
            filler="ER316L",
        )
        runs.record_run(
            "P-0002",
            "A",
            typed(
                run(
                    {"joint": "outside-corner", "members": [member("316L", "16 ga")] * 2},
                    who="K.O.",
                    notes="Bars left on until cold; the rim stayed straight",
                )
            ),
        )

    def keep(self, **data: Any) -> None:
        procedures.keep_draft(make_joint(data), ASSUMED)

    def search(self, text: str, status: str = "") -> list[str]:
        rows, count = library_search.list_procedures(text, status)
        self.assertEqual(len(rows), count)
        return [row.label.split("/")[0] for row in rows]

    def test_by_every_kind_of_word(self) -> None:
        for text, found in (
            ("P-0002", ["P-0002"]),
            ("p-0003", ["P-0003"]),
            ("bracket", ["P-0001"]),
            ("brack fo", ["P-0001"]),
            ("304l", ["P-0001"]),
            ("mild steel", ["P-0001"]),
            ("er309", ["P-0001"]),
            ("309l", ["P-0001"]),
            ("K.O.", ["P-0002"]),
            ("ko", ["P-0002"]),
            ("bars cold", ["P-0002"]),
            ("tee", ["P-0001"]),
            ("outside corner", ["P-0002"]),
            ("tube 316", ["P-0003"]),
        ):
            with self.subTest(text=text):
                self.assertEqual(self.search(text), found)

    def test_thickness_in_both_unit_systems(self) -> None:
        for text, found in (
            ("1.5 mm", ["P-0001"]),
            ("0.059 in", ["P-0001"]),
            ("16 ga", ["P-0002"]),
            ("16ga", ["P-0002"]),
            ("1.59 mm", ["P-0002"]),
            (".065", ["P-0003"]),
            ("0.065 in", ["P-0003"]),
            ("1.65 mm", ["P-0003"]),
            ("1,65 mm", ["P-0003"]),
        ):
            with self.subTest(text=text):
                self.assertEqual(self.search(text), found)

    def test_a_figure_is_not_found_in_the_middle_of_another_word(self) -> None:
        self.keep(joint="lap", members=[member("316L", "0.9 mm")] * 2)
        self.assertEqual(self.search("16 ga"), ["P-0002"])

    def test_data_keys_are_not_search_terms(self) -> None:
        for text in ("metal", "thickness", "sentence_in", "why", "zebra", "…", '"'):
            with self.subTest(text=text):
                self.assertEqual(self.search(text), [])

    def test_every_word_is_wanted(self) -> None:
        self.assertEqual(self.search("tray 304L"), [])
        self.assertEqual(self.search("tray 316L 16 ga"), ["P-0002"])

    def test_best_first(self) -> None:
        """A title ranks above a note.

        The note of P-0002 and the title of P-0003 contain straight.
        """
        self.assertEqual(self.search("straight"), ["P-0003", "P-0002"])

    def test_vague_search_lists_newest_first(self) -> None:
        with mock.patch.object(library_search, "RANKED", 1):
            self.assertEqual(self.search("straight"), ["P-0003", "P-0002"])
            self.assertEqual(self.search("rim"), ["P-0002"])
            self.keep(joint="butt", members=[member()] * 2, title="After")
            runs.record_run(
                "P-0004",
                "A",
                typed(run({"joint": "butt", "members": [member()] * 2}, notes="straight")),
            )
            rows, count = library_search.list_procedures("straight")
            # how many more there are is not counted
            self.assertEqual(count, 2)
            self.assertEqual([row.label for row in rows], ["P-0004", "P-0003", "P-0002"])
            view = library_search.list_page(LibraryFilter(terms=("straight",)))
            self.assertEqual((view.pages, view.total, view.has_more), (1, 1, True))
            self.assertEqual(library_search.list_procedures()[1], 4)

    def test_empty_search_lists_the_library_newest_first(self) -> None:
        self.assertEqual(self.search(""), ["P-0003", "P-0002", "P-0001"])
        self.assertEqual(self.search("", "proved"), ["P-0002"])
        self.assertEqual(self.search("316", "draft"), ["P-0003"])

    def test_search_operators_are_plain_text(self) -> None:
        for text in ("NEAR(", "a AND", "title:tray", "* OR *", "tray'", "-tray", "{", "(", "\x00"):
            with self.subTest(text=text):
                self.search(text)

    def test_a_long_search_is_cut(self) -> None:
        self.assertLess(len(split_search("x" * 5000)[0]), 100)
        self.assertLess(len(split_search("x " * 500)), 40)

    def test_omitted_rows_are_reported(self) -> None:
        self.assertEqual(library_search.search_note("rim " * 12), "")
        self.assertIn("Only its first 12 are used", library_search.search_note("rim " * 13))
        self.assertEqual(library_search.search_note("x" * 200), "")
        self.assertIn("first 200 letters", library_search.search_note("x" * 201))

    def test_a_search_without_end(self) -> None:
        for text in (
            "9" * 50_000,
            "9." * 25_000,
            "ä" * 50_000,
            "a " * 50_000,
            "9 " * 50_000 + "mm",
            '"' * 50_000,
            "\x00" * 999,
        ):
            library_search.list_procedures(text)

    def test_letters_however_they_are_written(self) -> None:
        self.keep(joint="lap", members=[member()] * 2, title="Bügel ÄRMEL Straße")
        for text in (
            "bügel",
            "BÜGEL",
            "bu\u0308gel",
            "ärmel",
            "A\u0308rmel",
            "Ärmel",
            "straße",
            "bugel",
            "armel",
        ):
            with self.subTest(text=text):
                self.assertEqual(self.search(text), ["P-0004"])
        runs.record_run("P-0004", "A", typed(run(who="Ä.O\u0308.", good=False)))
        for text in ("ä.ö.", "Ä.Ö.", "äö"):
            self.assertEqual(self.search(text), ["P-0004"])

    def test_changed_draft_is_found_by_its_new_text(self) -> None:
        joint = make_joint(
            {"joint": "lap", "members": [member("430", "0.8 mm")] * 2, "title": "Shelf"}
        )
        procedures.save_draft("P-0001", joint, 1, ASSUMED)
        self.assertEqual((self.search("bracket"), self.search("shelf 430")), ([], ["P-0001"]))


class Pages(StoreCase):
    def test_in_pages(self) -> None:
        for _ in range(5):
            procedures.keep_draft(make_joint({"joint": "lap", "members": [member()] * 2}), ASSUMED)
        with mock.patch.object(library_search, "PAGE", 2):
            pages = [
                [row.number for row in library_search.list_procedures(page=p)[0]]
                for p in (1, 2, 3, 4, 0)
            ]
            self.assertEqual(pages, [[5, 4], [3, 2], [1], [1], [5, 4]])
            self.assertEqual(library_search.list_procedures("304L", page=3)[1], 5)


if __name__ == "__main__":
    unittest.main()
