"""Records of each released version, frozen as files.

They open, print, draw, compare and export for ever. `shown.json` next to them has the display of
that version. A saved record shows its saved values, whatever the present rules and tables.
"""

import itertools
import json
import re
import sqlite3
import tempfile
import unittest
from pathlib import Path
from urllib.parse import parse_qsl

from tests.altered import altered, emptied
from tests.frozen import RECORDS, read_display, read_first_library, read_procedure_files, versions
from tests.store_case import StoreCase
from wisearc.core.errors import InputError
from wisearc.core.joint.words import sentence_text
from wisearc.drawings.plan.views import VIEWS, draw
from wisearc.formats.plan_json import plan_data, read_plan
from wisearc.formats.plan_lines import build_summary, plan_lines, plan_notices
from wisearc.formats.upgrades.steps import STEPS, NewerFormat, upgrade_record
from wisearc.presenters import procedure_page
from wisearc.presenters.comparison import compare
from wisearc.services.maintenance.opening import open_data
from wisearc.services.procedures import book, library_search, procedure_files
from wisearc.store import listings, queries
from wisearc.store.database import db
from wisearc.store.errors import NewerVersion, Unreadable
from wisearc.store.folder import FILE_NAME
from wisearc.store.models import Procedure, Revision

UNIT_SYSTEMS = ("mm", "in")
TABLES = (
    "metals",
    "groups",
    "rods",
    "joints",
    "positions",
    "pulses",
    "backs",
    "tungstens",
    "cups",
    "thermal",
    "fillers",
)


# Rods and tungstens in inches before version 0.4, and as sold since: the saved figure is the same.
SOLD = {
    "0.024": "0.023",
    "0.031": "0.030",
    "0.039": "0.040",
    "0.047": "0.045",
    "0.063": "1/16",
    "0.094": "3/32",
    "0.126": "1/8",
}
REWORDED = ("0.1", "0.2", "0.3")


def rewrite_display(text: str, key: str, version: str) -> str:
    """Return the display of a version in the present form.

    Diameters as sold in inches, °F to ten degrees, and two words that changed.
    """
    text = re.sub(r"(stick-out .*), maximum ", r"\1, sound to ", text)
    text = re.sub(r" before the arc, (.+) during the weld", r" before the arc, then \1", text)
    if version not in REWORDED:
        return text
    told = re.sub(r"(\d+) °F", lambda m: f"{10 * round(int(m[1]) / 10)} °F", text)
    if key in ("filler", "tungsten"):
        told = re.sub(r"\b(0\.\d{3}) in", lambda m: f"{SOLD.get(m[1], m[1])} in", told)
    return told


class FrozenDisplays(unittest.TestCase):
    def test_there_are_records(self) -> None:
        self.assertGreaterEqual(len(versions()), 6)
        for version in versions():
            self.assertGreaterEqual(len(read_procedure_files(version)), 3)

    def test_words_and_figures(self) -> None:
        for version in versions():
            shown = read_display(version)
            for name, data in read_procedure_files(version).items():
                plan = read_plan(data["plan"])
                for habit in UNIT_SYSTEMS:
                    was = shown[name][habit]
                    with self.subTest(version=version.name, record=name, habit=habit):
                        self.assertEqual(sentence_text(plan.sentence, habit), was["sentence"])
                        self.assertEqual(
                            [list(row) for row in build_summary(plan, habit)], was["summary"]
                        )
                        lines = [
                            [n.key, n.label, n.what, n.detail] for n in plan_lines(plan, habit)
                        ]
                        told = [
                            [
                                k,
                                label,
                                rewrite_display(what, k, version.name),
                                rewrite_display(detail, "", version.name),
                            ]
                            for k, label, what, detail, *_ in was["lines"]
                        ]
                        self.assertEqual(lines, told)
                        self.assertEqual(
                            [len(n.why) for n in plan_lines(plan, habit)],
                            [row[5] for row in was["lines"]],
                        )
                        notices = [
                            [n.level, n.word, n.caution.code, n.caution.at, n.text]
                            for n in plan_notices(plan, habit)
                        ]
                        self.assertEqual(notices, was["cautions"])
                        drawn = [
                            [title, draw(view, plan, habit, "paper").words]
                            for view, (title, _) in VIEWS.items()
                        ]
                        self.assertEqual(
                            drawn,
                            [
                                [title, rewrite_display(words, "", version.name)]
                                for title, words in was["drawings"]
                            ],
                        )
                        by_hand = [key for n in plan_lines(plan, habit) for key, _ in n.by_hand]
                        self.assertEqual(
                            by_hand, [key for row in was["lines"] for key, _ in row[4]]
                        )

    def test_upgrade_keeps_the_original(self) -> None:
        for version in versions():
            for name, data in read_procedure_files(version).items():
                before = json.dumps(data["plan"], sort_keys=True)
                once = upgrade_record("plan", data["plan"])
                with self.subTest(version=version.name, record=name):
                    self.assertEqual(json.dumps(data["plan"], sort_keys=True), before)
                    self.assertEqual(upgrade_record("plan", once), once)
                    self.assertEqual(plan_data(read_plan(once)), plan_data(read_plan(data["plan"])))

    def test_any_two_compare(self) -> None:
        plans = [
            read_plan(data["plan"])
            for version in versions()
            for data in read_procedure_files(version).values()
        ]
        for left, right in itertools.pairwise(plans):
            both = compare(left, right, "mm")
            self.assertEqual((len(both.answers) in (11, 12), both.summary != ""), (True, True))


class Taken(StoreCase):
    def take_all(self) -> list[Revision]:
        """Every record of every version, taken into the book."""
        return [
            procedure_files.import_procedure(data)[0]
            for version in versions()
            for data in read_procedure_files(version).values()
        ]

    def test_export_equals_the_original(self) -> None:
        for version in versions():
            for name, data in read_procedure_files(version).items():
                taken, _ = procedure_files.import_procedure(data)
                out = json.loads(book.procedure_text(taken))
                with self.subTest(version=version.name, record=name):
                    for part in (
                        "joint",
                        "plan",
                        "bands",
                        "title",
                        "status",
                        "revision",
                        "signatures",
                    ):
                        self.assertEqual(out[part], data[part])
                    self.assertEqual(procedure_files.import_procedure(out)[1], "known")

    def test_survives_a_catalogue_without_its_rows(self) -> None:
        taken = self.take_all()
        before = [procedure_page.record(revision, "in") for revision in taken]
        drawings = [[d.svg for _, d in procedure_page.draw_for_paper(view)] for view in before]
        with altered(**dict.fromkeys(TABLES, emptied)):
            for revision, view, drawn in zip(taken, before, drawings, strict=True):
                again = procedure_page.record(
                    queries.get_revision(revision.procedure.label, revision.letter), "in"
                )
                self.assertEqual(
                    (again.text, again.link, again.bands), (view.text, view.link, view.bands)
                )
                self.assertEqual([n.what for n in again.lines], [n.what for n in view.lines])
                self.assertEqual([d.svg for _, d in procedure_page.draw_for_paper(again)], drawn)
                self.assertTrue(procedure_page.draw_sheet(again).svg)

    def test_a_link_of_a_record_holds_its_joint(self) -> None:
        shown = read_display(RECORDS / "0.1")
        for name, data in read_procedure_files(RECORDS / "0.1").items():
            link = dict(
                parse_qsl(
                    procedure_page.record(procedure_files.import_procedure(data)[0], "mm").link
                )
            )
            was = {k.replace("pin.", "pins."): v for k, v in parse_qsl(shown[name]["mm"]["link"])}
            with self.subTest(record=name):
                self.assertEqual(link, was)


class OldLibrary(unittest.TestCase):
    """A whole data folder of the first version: brought up to date, its records untouched."""

    def setUp(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self.folder = Path(self._folder.name)
        (self.folder / FILE_NAME).write_bytes(read_first_library())

    def tearDown(self) -> None:
        if not db.is_closed():
            db.close()
        self._folder.cleanup()

    def rows(self) -> list[tuple]:
        """Every record on disk."""
        with sqlite3.connect(self.folder / FILE_NAME) as file:
            found = file.execute(
                "SELECT id, letter, status, title, joint, plan, bands, edit, changed_at, proved_at"
                " FROM revision ORDER BY id"
            ).fetchall()
            found += file.execute(
                "SELECT id, revision_id, made_on, record, good FROM run ORDER BY id"
            ).fetchall()
        file.close()
        return found

    def test_opens_lists_and_stays_as_it_was(self) -> None:
        before = self.rows()
        open_data(self.folder)
        rows, found = library_search.list_procedures()
        self.assertEqual(found, 6)
        for row in rows:
            view = procedure_page.record(queries.get_revision(row.label, row.letter), "in")
            self.assertTrue(view.lines and procedure_page.draw_for_paper(view))
        self.assertEqual([r.label for r in library_search.list_procedures("stay mast")[0]], [])
        self.assertEqual(
            {r.letter for r in library_search.list_procedures("P-0004")[0]}, {"A", "B"}
        )
        db.close()
        self.assertEqual(self.rows(), before)

    def test_second_opening_lists_nothing_new(self) -> None:
        open_data(self.folder)
        self.assertEqual(list(listings.list_unlisted()), [])


class UnreadableProcedures(StoreCase):
    def spoil(self, **changes: object) -> Revision:
        """A kept draft whose plan was changed in the database by hand."""
        data = read_procedure_files(RECORDS / "0.1")["tube-cope"]
        draft, _ = procedure_files.import_procedure(
            {**data, "status": "draft", "proved": None, "runs": []}
        )
        plan = {**upgrade_record("plan", draft.plan), **changes}
        Revision.update(plan=plan).where(Revision.id == draft.id).execute()
        return queries.get_revision(draft.procedure.label, draft.letter)

    def test_newer_format_is_reported_and_not_misread(self) -> None:
        for changes in ({"minor": 8}, {"version": 2}):
            with (
                self.subTest(changes=changes),
                self.assertRaisesRegex(NewerVersion, "newer version of Wise Arc"),
            ):
                procedure_page.record(self.spoil(**changes), "mm")
            Procedure.update(number=Procedure.number + 100).execute()
        newest = len(STEPS["plan"][1])
        with self.assertRaises(NewerFormat):
            upgrade_record("plan", {"format": "wisearc/plan", "version": 1, "minor": newest + 1})

    def test_damaged_procedure_is_named_and_can_be_exported(self) -> None:
        for changes, words in (
            ({"torch": {"cup": "hat"}}, "torch"),
            ({"cautions": None}, "cautions"),
            ({"tacks": {}}, "tacks"),
            ({"joint": []}, "joint"),
            ({"format": "wisearc/hat"}, "wisearc/plan"),
            ({"minor": "x"}, "minor"),
        ):
            revision = self.spoil(**changes)
            with self.subTest(changes=changes):
                with self.assertRaisesRegex(Unreadable, f"cannot be shown.*({words})"):
                    procedure_page.record(revision, "mm")
                self.assertIn("wisearc/procedure", book.procedure_text(revision))
            Procedure.update(number=Procedure.number + 100).execute()

    def test_damaged_before_the_upgrade(self) -> None:
        plan = read_procedure_files(RECORDS / "0.1")["tube-cope"]["plan"]
        for key in ("tacks", "torch", "joint"):
            with self.assertRaisesRegex(InputError, "is not consistent"):
                read_plan({**plan, key: {}})

    def test_it_is_listed_all_the_same(self) -> None:
        revision = self.spoil(torch=None)
        library_search.list_record(revision)
        rows, _ = library_search.list_procedures(revision.procedure.label)
        self.assertEqual([(r.label, r.rod) for r in rows], [(revision.procedure.label, None)])

    def test_a_file_of_none_of_these_formats(self) -> None:
        for data in (
            [],
            {},
            {"format": "wisearc/plan", "version": True},
            {"format": "wisearc/plan", "version": 0},
        ):
            with self.assertRaises(InputError):
                read_plan(data)


if __name__ == "__main__":
    unittest.main()
