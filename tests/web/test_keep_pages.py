"""Pages of the procedures: save, record, archive."""

import sqlite3
import unittest
from unittest import mock

from tests.web.case import WebCase
from wisearc.services.procedures import book
from wisearc.store import database
from wisearc.store.database import db
from wisearc.store.folder import FILE_NAME
from wisearc.store.opening import SCHEMA


class TheWay(WebCase):
    def test_draft_run_proved_print(self) -> None:
        here = self.keep()
        self.assertEqual(here, "/procedures/P-0001/A")
        self.assertIn("draft", self.client.get(here).get_data(as_text=True))
        done = self.post(
            here + "/runs", self.run_form(**{"measured.arc_time_s": "29,4"}), page=here + "/runs"
        )
        self.assertIn("taken=proved", done.headers["Location"])
        self.assertIn("New revision", self.client.get(here).get_data(as_text=True))
        self.assertIn("29.4 s", self.client.get(here + "/runs").get_data(as_text=True))
        sheet = self.client.get(here + "/print").get_data(as_text=True)
        for words in (
            "P-0001",
            "verified",
            "R.T.",
            "not a qualified procedure",
            "Work clamp on clean metal",
            "<svg",
        ):
            self.assertIn(words, sheet)
        self.assertEqual(
            self.client.get(here + "/drawings").get_data(as_text=True).count("<svg"), 5
        )

    def test_later_change_makes_revision_b(self) -> None:
        here = self.keep()
        self.post(here + "/runs", self.run_form(), page=here + "/runs")
        done = self.post(
            "/procedures/draft",
            {"link": "joint=outside-corner&a.thickness=16+ga&length=400+mm", "from": "P-0001"},
        )
        self.assertEqual(done.headers["Location"], "/procedures/P-0001/B")
        text = self.client.get("/procedures/P-0001/B/changes").get_data(as_text=True)
        self.assertRegex(text, r'>P-0001 A</a> <span class="state state-proved">verified')
        self.assertRegex(
            text, r'Seam length</th><td data-label="A">380 mm</td><td data-label="B">400'
        )
        self.assertEqual(
            self.client.get("/procedures/P-0001").headers["Location"], "/procedures/P-0001/B"
        )

    def test_run_in_inches(self) -> None:
        here = self.keep()
        self.client.set_cookie("habit", "in")
        self.post(
            here + "/runs",
            self.run_form(**{"set.flow_l_min": "20", "measured.length_mm": "15", "outcome": "no"}),
            page=here + "/runs",
        )
        record = self.client.get(here + ".json").get_json()["runs"][0]
        self.assertAlmostEqual(record["set"]["flow_l_min"], 9.439, places=3)
        self.assertAlmostEqual(record["measured"]["length_mm"], 381)

    def test_twice_quickly(self) -> None:
        fields = {**self.token(), "link": "joint=tee"}
        first, second = (
            self.client.post("/procedures/draft", data=fields).headers["Location"] for _ in range(2)
        )
        self.assertEqual(first, second)


class TypedRun(WebCase):
    """Typed text stays unchanged, whatever happens in between."""

    def setUp(self) -> None:
        super().setUp()
        self.here = self.keep()

    def send(self, **more: object) -> str:
        done = self.post(self.here + "/runs", self.run_form(**more), page=self.here + "/runs")
        return done.get_data(as_text=True)

    def runs(self) -> list[dict]:
        return self.client.get(self.here + ".json").get_json()["runs"]

    def test_figure_keeps_its_unit_after_a_unit_change(self) -> None:
        self.client.set_cookie("habit", "in")
        self.send(
            habit="mm",
            outcome="no",
            **{"set.flow_l_min": "12", "measured.length_mm": "380", "measured.arc_time_s": "90"},
        )
        made = self.runs()[0]
        self.assertEqual(
            (
                made["set"]["flow_l_min"],
                made["measured"]["length_mm"],
                made["measured"]["arc_time_s"],
            ),
            (12, 380, 90),
        )

    def test_entry_returns_with_its_unit(self) -> None:
        self.client.set_cookie("habit", "in")
        text = self.send(
            habit="mm",
            who="",
            **{"set.flow_l_min": "12", "measured.length_mm": "16 in", "measured.arc_time_s": "90"},
        )
        for value in ("12 L/min", "16 in", "90"):
            self.assertIn(f'value="{value}"', text)
        text = self.send(habit="in", who="", **{"set.flow_l_min": "12"})
        self.assertIn('value="12"', text)

    def test_all_ticks_are_restored(self) -> None:
        text = self.send(who="", faults=["pores", "hole", "undercut"])
        for fault in ("pores", "hole", "undercut"):
            self.assertIn(f'value="{fault}" checked', text)

    def test_consequences_are_shown_first(self) -> None:
        told = {"measured.length_mm": "380", "measured.arc_time_s": "112", "set.current_a": "500"}
        text = self.post(self.here + "/runs/look", {"habit": "mm", **told}).get_data(as_text=True)
        self.assertIn("a travel speed of <b>3.4 mm/s", " ".join(text.split()))
        self.assertIn("500 A", text)

    def test_a_line_end_is_one_character(self) -> None:
        notes = "\r\n".join(["x" * 39] * 100)
        self.send(notes=notes, outcome="no")
        self.assertEqual(self.runs()[0]["notes"], notes.replace("\r\n", "\n"))
        self.assertIn("at most 4000 characters", self.send(notes="x" * 4001, outcome="no"))

    def test_each_error_is_at_its_field(self) -> None:
        for field, value, words in (
            ("when", "2999-01-01", "“2999-01-01” is in the future. Give the day"),
            ("machine", "a\tb", "must be one line of plain text"),
            ("notes", "x" * 4001, "must be text of at most 4000"),
            ("faults", "rain", "must be one of cold"),
        ):
            text = self.send(**{field: value})
            beside = text.split(f'id="error-{field}"')[1].split("</p>")[0]
            with self.subTest(field=field):
                self.assertIn(words, beside)

    def test_address_alone_cannot_claim_a_save(self) -> None:
        for address in (
            "?taken=run",
            "?taken=proved",
            "?taken=run&once=",
            "?taken=run&once=made-up",
            "?taken=renumbered",
        ):
            text = self.client.get(self.here + address).get_data(as_text=True)
            with self.subTest(address=address):
                self.assertNotIn("data-taken", text)
                self.assertNotIn('class="taken', text)

    def test_save_is_confirmed_by_its_token(self) -> None:
        done = self.post(self.here + "/runs", self.run_form(), page=self.here + "/runs")
        text = self.client.get(done.headers["Location"]).get_data(as_text=True)
        self.assertIn('data-taken="P-0001-A" data-once="', text)
        self.assertIn("is verified and cannot change", text)

    def test_token_stays_with_the_entries(self) -> None:
        fields = {**self.token(self.here + "/runs"), **self.run_form(who="")}
        text = self.client.post(self.here + "/runs", data=fields).get_data(as_text=True)
        self.assertIn(f'name="once" value="{fields["once"]}"', text)

    def test_unwritable_entry_is_returned(self) -> None:
        fields = {
            **self.token(self.here + "/runs"),
            **self.run_form(
                notes="a long\nnote",
                faults=["pores", "hole"],
                outcome="no",
                **{"set.flow_l_min": "9.5"},
            ),
        }
        for spoil, code, words in (
            ("ALTER TABLE run RENAME TO gone", 500, "not a valid database"),
            ("UPDATE procedure SET number = 77", 404, "There is no procedure P-0001"),
        ):
            with sqlite3.connect(self.folder / FILE_NAME) as file:
                file.execute(spoil)
            file.close()
            done = self.client.post(self.here + "/runs", data=fields)
            text = done.get_data(as_text=True)
            with self.subTest(spoil=spoil):
                self.assertEqual(done.status_code, code)
                for what in (
                    words,
                    "a long\nnote",
                    "Argon",
                    'value="pores"',
                    'value="hole"',
                    "9.5",
                    fields["once"],
                ):
                    self.assertIn(what, text)
            with sqlite3.connect(self.folder / FILE_NAME) as file:
                file.execute("ALTER TABLE gone RENAME TO run") if "gone" in spoil else None
            file.close()

    def test_a_full_disk_echoes_it(self) -> None:
        fields = {
            **self.token(self.here + "/runs"),
            **self.run_form(notes="a long note " * 300, outcome="no"),
        }
        with mock.patch.dict(database.PRAGMAS, max_page_count=1):
            db.point(self.folder / FILE_NAME, SCHEMA)
            for i in range(40):
                done = self.client.post(self.here + "/runs", data={**fields, "machine": str(i)})
                if done.status_code != 303:
                    break
        self.assertEqual(done.status_code, 507)
        self.assertIn("Not saved: the disk is full", done.get_data(as_text=True))
        self.assertIn("a long note", done.get_data(as_text=True))

    def test_pages_of_many_runs(self) -> None:
        for i in range(5):
            self.send(outcome="no", notes=f"note {i}")
        with mock.patch.object(book, "RUNS_A_PAGE", 2):
            last, first = (
                self.client.get(f"{self.here}/runs{page}").get_data(as_text=True)
                for page in ("", "?page=1")
            )
        self.assertIn("note 4", last)
        self.assertNotIn("note 1", last)
        self.assertIn("note 1", first)
        self.assertIn("Page 1 of 3, 5 runs in total", first)


class Archived(WebCase):
    def test_away_and_back(self) -> None:
        here = self.keep()
        self.assertEqual(self.post(here + "/away", {}).headers["Location"], here)
        self.assertIn("was archived on", self.client.get(here).get_data(as_text=True))
        self.assertNotIn(here, self.client.get("/procedures/").get_data(as_text=True))
        self.assertIn(here, self.client.get("/procedures/?status=removed").get_data(as_text=True))
        self.post(here + "/back", {})
        self.assertIn(here, self.client.get("/procedures/").get_data(as_text=True))

    def test_void_and_restore_a_run(self) -> None:
        here = self.keep()
        self.post(here + "/runs", self.run_form(outcome="no"), page=here + "/runs")
        number = (
            self.client.get(here + "/runs")
            .get_data(as_text=True)
            .split('id="run-')[1]
            .split('"')[0]
        )
        unsigned = self.post(f"{here}/runs/{number}/strike", {"who": ""})
        self.assertEqual(unsigned.status_code, 422)
        self.assertIn(
            "The run is still valid. Enter your initials to void the run.",
            unsigned.get_data(as_text=True),
        )
        long = self.post(f"{here}/runs/{number}/strike", {"who": "x" * 61}).get_data(as_text=True)
        self.assertIn(
            "must be text of at most 60 characters",
            long.partition('id="not-struck"')[2][:200],
        )
        self.assertIn(f'value="{"x" * 61}"', long)
        self.post(f"{here}/runs/{number}/strike", {"who": "K.S."})
        self.assertIn(
            "by K.S.: it does not count", self.client.get(here + "/runs").get_data(as_text=True)
        )
        self.post(f"{here}/runs/{number}/count", {})
        self.assertNotIn("Voided", self.client.get(here + "/runs").get_data(as_text=True))
        self.assertEqual(self.post(f"{here}/runs/999/strike", {"who": "K.S."}).status_code, 404)

    def test_the_run_that_proves_stays(self) -> None:
        here = self.keep()
        self.post(here + "/runs", self.run_form(), page=here + "/runs")
        number = (
            self.client.get(here + "/runs")
            .get_data(as_text=True)
            .split('id="run-')[1]
            .split('"')[0]
        )
        done = self.post(f"{here}/runs/{number}/strike", {"who": "K.S."})
        self.assertEqual(done.status_code, 409)
        self.assertIn("This run verifies P-0001 A", done.get_data(as_text=True))
        self.assertEqual(self.post(here + "/away", {}).status_code, 409)


class FailureStatus(WebCase):
    """Each failure has a separate status.

    The cases are missing, moved, too large and temporary.
    """

    def test_statuses(self) -> None:
        here = self.keep()
        self.post(here + "/runs", self.run_form(), page=here + "/runs")
        for address, data, code in (
            ("/procedures/draft", {"link": "joint=tee", "draft": "P-0099"}, 404),
            ("/procedures/draft", {"link": "joint=tee", "draft": "P-0001", "edit": "1"}, 409),
            (
                "/procedures/draft",
                {"link": "joint=outside-corner&a.thickness=16+ga&length=380+mm", "from": "P-0001"},
                409,
            ),
            ("/procedures/P-0099/A/runs", self.run_form(), 404),
            ("/procedures/P-0001/B/away", {}, 404),
            ("/procedures/nowhere/at/all", {}, 404),
        ):
            with self.subTest(address=address, code=code):
                self.assertEqual(self.post(address, data).status_code, code)
        large = self.post("/procedures/draft", {"link": "x" * 600_000})
        self.assertEqual(large.status_code, 413)
        self.assertIn(
            "the request is too large (maximum 512 kB)",
            large.get_data(as_text=True),
        )
        self.assertEqual(self.client.get("/procedures/draft").status_code, 404)
        self.assertEqual(self.client.put("/procedures/draft").status_code, 405)

    def test_busy_answer_has_retry_after(self) -> None:
        fields = {**self.token(), "key": "tip_school", "value": "needle"}
        db.point(self.folder / FILE_NAME, SCHEMA, pragmas={"busy_timeout": 50})
        other = sqlite3.connect(self.folder / FILE_NAME, isolation_level=None)
        other.execute("BEGIN IMMEDIATE")
        done = self.client.post("/shop/preferences", data=fields)
        other.close()
        self.assertEqual((done.status_code, done.headers["Retry-After"]), (503, "2"))


class Book(WebCase):
    def test_empty_state_names_the_next_step(self) -> None:
        self.assertIn("No procedures yet", self.client.get("/procedures/").get_data(as_text=True))

    def test_search(self) -> None:
        self.keep("joint=tee&title=Bracket+foot")
        self.keep("joint=butt&title=Panel")
        text = self.client.get("/procedures/?q=bracket").get_data(as_text=True)
        self.assertIn("Bracket foot", text)
        self.assertNotIn("Panel", text)
        self.assertIn(
            "No results",
            self.client.get("/procedures/?q=100%25_zebra").get_data(as_text=True),
        )


if __name__ == "__main__":
    unittest.main()
