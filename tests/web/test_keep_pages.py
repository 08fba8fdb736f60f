"""Keep over HTTP: draft, run, proof, print, files; two browsers; a database that fails."""

import io
import json
import re
import sqlite3
import unittest
from unittest import mock

from tests.samples import EVERY, run
from tests.web.case import WebCase, client_of
from wisearc.services.maintenance import maintenance
from wisearc.services.procedures import book
from wisearc.store import database
from wisearc.store.database import db
from wisearc.store.folder import FILE_NAME
from wisearc.store.opening import SCHEMA


class TheWay(WebCase):
    def test_draft_run_proved_print(self) -> None:
        here = self.keep()
        self.assertEqual(here, "/keep/P-0001/A")
        self.assertIn("draft", self.client.get(here).get_data(as_text=True))
        done = self.post(
            here + "/runs", self.run_form(**{"measured.arc_time_s": "29,4"}), page=here
        )
        self.assertIn("taken=proved", done.headers["Location"])
        text = self.client.get(here).get_data(as_text=True)
        self.assertIn("Plan a change", text)
        self.assertIn("29.4 s", text)
        sheet = self.client.get(here + "/print").get_data(as_text=True)
        for words in (
            "P-0001",
            "proved",
            "R.T.",
            "not a qualified procedure",
            "Return clamp on clean metal",
            "<svg",
        ):
            self.assertIn(words, sheet)
        self.assertEqual(
            self.client.get(here + "/drawings").get_data(as_text=True).count("<svg"), 5
        )

    def test_later_change_makes_revision_b(self) -> None:
        here = self.keep()
        self.post(here + "/runs", self.run_form(), page=here)
        done = self.post(
            "/keep/draft",
            {"link": "joint=outside-corner&a.thickness=16+ga&length=400+mm", "from": "P-0001"},
        )
        self.assertEqual(done.headers["Location"], "/keep/P-0001/B")
        self.assertIn("A proved", self.client.get("/keep/P-0001/B").get_data(as_text=True))
        self.assertEqual(self.client.get("/keep/P-0001").headers["Location"], "/keep/P-0001/B")

    def test_run_in_inches(self) -> None:
        here = self.keep()
        self.client.set_cookie("habit", "in")
        self.post(
            here + "/runs",
            self.run_form(**{"set.flow_l_min": "20", "measured.length_mm": "15", "outcome": "no"}),
            page=here,
        )
        record = self.client.get(here + ".json").get_json()["runs"][0]
        self.assertAlmostEqual(record["set"]["flow_l_min"], 9.439, places=3)
        self.assertAlmostEqual(record["measured"]["length_mm"], 381)

    def test_twice_quickly(self) -> None:
        fields = {**self.token(), "link": "joint=tee"}
        first, second = (
            self.client.post("/keep/draft", data=fields).headers["Location"] for _ in range(2)
        )
        self.assertEqual(first, second)


class BadInput(WebCase):
    def test_each_field_says_its_own_and_nothing_is_lost(self) -> None:
        here = self.keep()
        done = self.post(
            here + "/runs",
            {
                "when": "soon",
                "who": "",
                "measured.arc_time_s": "fifty",
                "set.flow_l_min": "900",
                "notes": "kept <b>words</b>",
                "outcome": "good",
            },
            page=here,
        )
        self.assertEqual(done.status_code, 422)
        text = done.get_data(as_text=True)
        for words in (
            "“soon” is not a date",
            "Write your initials",
            "“fifty” must be a number",
            "must be from 1 L/min to 60 L/min",
            "Say what the front looks like",
            "kept &lt;b&gt;words",
            'value="fifty"',
        ):
            self.assertIn(words, text)

    def test_good_on_a_plan_with_cautions_asks_for_a_second_look(self) -> None:
        link = "joint=butt&a.thickness=1.5+mm&length=200+mm&pins.flow_l_min=18"
        here = self.keep(link)
        self.assertIn("looked at this caution again", self.client.get(here).get_data(as_text=True))
        made = run({**EVERY["butt"], "length": "200 mm", "pins": {"flow_l_min": 18}})
        told = {
            f"{part}.{key}": str(value)
            for part in ("set", "used", "measured")
            for key, value in made[part].items()
        }
        form = {**self.run_form(), **told, "notes": "as it went"}
        done = self.post(here + "/runs", form, page=here)
        text = done.get_data(as_text=True)
        self.assertEqual(done.status_code, 422)
        self.assertIn("look at them again and tick the box", text)
        self.assertIn("as it went", text)
        not_good = {**form, "outcome": "not-good"}
        self.assertEqual(self.post(here + "/runs", not_good, page=here).status_code, 303)
        # not by the other button either, where the run turns out to be as planned
        done = self.post(here + "/runs", {**form, "outcome": "as-done"}, page=here)
        self.assertEqual(done.status_code, 422)
        self.assertIn("look at them again", done.get_data(as_text=True))
        # nor by correcting what was written down as not good
        (number,) = re.findall(r'href="[^"]*/runs/([0-9]+)/correct"', self.page_of(here))
        correct = f"{here}/runs/{number}/correct"
        right = {**form, "outcome": "good", "corrected_by": form["who"]}
        done = self.post(correct, right, page=correct)
        self.assertEqual(done.status_code, 422)
        self.assertIn("look at them again", done.get_data(as_text=True))
        self.assertNotIn("state-proved", self.page_of(here))
        done = self.post(correct, {**right, "second_look": "yes"}, page=correct)
        self.assertEqual(done.status_code, 303)
        self.assertIn("state-proved", self.page_of(here))

    def test_as_done_and_yet_as_planned_is_recorded_as_good(self) -> None:
        here = self.keep()
        done = self.post(here + "/runs", self.run_form(outcome="as-done"), page=here)
        self.assertIn("taken=proved", done.headers["Location"])
        text = " ".join(self.page_of(done.headers["Location"]).split())
        self.assertIn("is proved and stands as it is", text)

    def page_of(self, address: str) -> str:
        return str(self.client.get(address).get_data(as_text=True))

    def test_a_fault_cannot_prove(self) -> None:
        here = self.keep()
        done = self.post(here + "/runs", self.run_form(faults=["hole"]), page=here)
        self.assertEqual(done.status_code, 422)
        self.assertIn("cannot verify a procedure", done.get_data(as_text=True))

    def test_forged_post_is_refused(self) -> None:
        for address in ("/keep/draft", "/keep/P-0001/A/runs", "/keep/read"):
            done = self.client.post(address, data={"link": "joint=tee"})
            self.assertEqual(done.status_code, 400)
            self.assertIn("reload it and send again", done.get_data(as_text=True))

    def test_nonsense_link_is_not_kept(self) -> None:
        done = self.post("/keep/draft", {"link": "joint=banana"})
        self.assertEqual(done.status_code, 400)
        self.assertIn("Not kept", done.get_data(as_text=True))

    def test_no_such_record(self) -> None:
        for address in (
            "/keep/P-0077",
            "/keep/P-0077/A",
            "/keep/zebra/A/print",
            "/keep/P-0077/A.json",
        ):
            self.assertEqual(self.client.get(address).status_code, 404, address)


class TypedRun(WebCase):
    """What was typed stays what it was, whatever comes between."""

    def setUp(self) -> None:
        super().setUp()
        self.here = self.keep()

    def send(self, **more: object) -> str:
        done = self.post(self.here + "/runs", self.run_form(**more), page=self.here)
        return done.get_data(as_text=True)

    def runs(self) -> list[dict]:
        return self.client.get(self.here + ".json").get_json()["runs"]

    def test_a_figure_means_what_it_meant_on_its_page(self) -> None:
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

    def test_and_comes_back_with_its_unit(self) -> None:
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

    def test_all_that_was_ticked_comes_back(self) -> None:
        text = self.send(who="", faults=["pores", "hole", "undercut"])
        for fault in ("pores", "hole", "undercut"):
            self.assertIn(f'value="{fault}" checked', text)

    def test_what_comes_of_it_is_told_before_the_faces_are(self) -> None:
        told = {"measured.length_mm": "380", "measured.arc_time_s": "112", "set.current_a": "500"}
        text = self.post(self.here + "/runs/look", {"habit": "mm", **told}).get_data(as_text=True)
        self.assertIn("a travel of <b>3.4 mm/s", " ".join(text.split()))
        self.assertIn("500 A", text)

    def test_a_line_end_is_one_character(self) -> None:
        notes = "\r\n".join(["x" * 39] * 100)
        self.send(notes=notes, outcome="no")
        self.assertEqual(self.runs()[0]["notes"], notes.replace("\r\n", "\n"))
        self.assertIn("at most 4000 characters", self.send(notes="x" * 4001, outcome="no"))

    def test_each_error_beside_its_field(self) -> None:
        for field, value, words in (
            ("when", "2999-01-01", "“2999-01-01” is still to come; give the day"),
            ("machine", "a\tb", "must be one line of plain text"),
            ("notes", "x" * 4001, "must be text of at most 4000"),
            ("faults", "rain", "must be one of hole"),
        ):
            text = self.send(**{field: value})
            beside = text.split(f'id="error-{field}"')[1].split("</p>")[0]
            with self.subTest(field=field):
                self.assertIn(words, beside)

    def test_an_address_cannot_say_it_was_taken(self) -> None:
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

    def test_taken_is_said_of_the_token_it_was_sent_with(self) -> None:
        done = self.post(self.here + "/runs", self.run_form(), page=self.here)
        text = self.client.get(done.headers["Location"]).get_data(as_text=True)
        self.assertIn('data-taken="P-0001-A" data-once="', text)
        self.assertIn("is proved and stands as it is", text)

    def test_the_token_stays_with_what_was_typed(self) -> None:
        fields = {**self.token(self.here), **self.run_form(who="")}
        text = self.client.post(self.here + "/runs", data=fields).get_data(as_text=True)
        self.assertIn(f'name="once" value="{fields["once"]}"', text)

    def test_what_cannot_be_written_is_echoed(self) -> None:
        fields = {
            **self.token(self.here),
            **self.run_form(
                notes="a long\nnote",
                faults=["pores", "hole"],
                outcome="no",
                **{"set.flow_l_min": "9.5"},
            ),
        }
        for spoil, code, words in (
            ("ALTER TABLE run RENAME TO gone", 500, "not a sound database"),
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
            **self.token(self.here),
            **self.run_form(notes="a long note " * 300, outcome="no"),
        }
        with mock.patch.dict(database.PRAGMAS, max_page_count=1):
            db.point(self.folder / FILE_NAME, SCHEMA)
            for i in range(40):
                done = self.client.post(self.here + "/runs", data={**fields, "machine": str(i)})
                if done.status_code != 303:
                    break
        self.assertEqual(done.status_code, 507)
        self.assertIn("The disk is full, so nothing was kept", done.get_data(as_text=True))
        self.assertIn("a long note", done.get_data(as_text=True))

    def test_pages_of_many_runs(self) -> None:
        for i in range(5):
            self.send(outcome="no", notes=f"note {i}")
        with mock.patch.object(book, "RUNS_A_PAGE", 2):
            last, first = (
                self.client.get(self.here + page).get_data(as_text=True) for page in ("", "?page=1")
            )
        self.assertIn("note 4", last)
        self.assertNotIn("note 1", last)
        self.assertIn("note 1", first)
        self.assertIn("Page 1 of 3, 5 runs in all", first)


class PutAway(WebCase):
    def test_away_and_back(self) -> None:
        here = self.keep()
        self.assertEqual(self.post(here + "/away", {}, page=here).headers["Location"], here)
        self.assertIn("was put away on", self.client.get(here).get_data(as_text=True))
        self.assertNotIn(here, self.client.get("/keep/").get_data(as_text=True))
        self.assertIn(here, self.client.get("/keep/?status=removed").get_data(as_text=True))
        self.post(here + "/back", {}, page=here)
        self.assertIn(here, self.client.get("/keep/").get_data(as_text=True))

    def test_struck_out_and_counted_again(self) -> None:
        here = self.keep()
        self.post(here + "/runs", self.run_form(outcome="no"), page=here)
        number = self.client.get(here).get_data(as_text=True).split('id="run-')[1].split('"')[0]
        unsigned = self.post(f"{here}/runs/{number}/strike", {"who": ""}, page=here)
        self.assertEqual(unsigned.status_code, 422)
        self.assertIn(
            "The run stands: write your initials to strike it out.", unsigned.get_data(as_text=True)
        )
        long = self.post(f"{here}/runs/{number}/strike", {"who": "x" * 61}, page=here).get_data(
            as_text=True
        )
        self.assertIn(
            "your initials must be text of at most 60 characters",
            long.partition('id="not-struck"')[2][:200],
        )
        self.assertIn(f'value="{"x" * 61}"', long)
        self.post(f"{here}/runs/{number}/strike", {"who": "K.S."}, page=here)
        self.assertIn("by K.S.: it counts no more", self.client.get(here).get_data(as_text=True))
        self.post(f"{here}/runs/{number}/count", {}, page=here)
        self.assertNotIn("Struck out", self.client.get(here).get_data(as_text=True))
        self.assertEqual(
            self.post(f"{here}/runs/999/strike", {"who": "K.S."}, page=here).status_code, 404
        )

    def test_the_run_that_proves_stays(self) -> None:
        here = self.keep()
        self.post(here + "/runs", self.run_form(), page=here)
        number = self.client.get(here).get_data(as_text=True).split('id="run-')[1].split('"')[0]
        done = self.post(f"{here}/runs/{number}/strike", {"who": "K.S."}, page=here)
        self.assertEqual(done.status_code, 409)
        self.assertIn("This is the run that proves P-0001 A", done.get_data(as_text=True))
        self.assertEqual(self.post(here + "/away", {}, page=here).status_code, 409)


class ToldTruly(WebCase):
    """Each failure by its own status: what is not there, what moved, what is too large, what will
    pass.
    """

    def test_statuses(self) -> None:
        here = self.keep()
        self.post(here + "/runs", self.run_form(), page=here)
        for address, data, code in (
            ("/keep/draft", {"link": "joint=tee", "draft": "P-0099"}, 404),
            ("/keep/draft", {"link": "joint=tee", "draft": "P-0001", "edit": "1"}, 409),
            (
                "/keep/draft",
                {"link": "joint=outside-corner&a.thickness=16+ga&length=380+mm", "from": "P-0001"},
                409,
            ),
            ("/keep/P-0099/A/runs", self.run_form(), 404),
            ("/keep/P-0001/B/away", {}, 404),
            ("/keep/nowhere/at/all", {}, 404),
        ):
            with self.subTest(address=address, code=code):
                self.assertEqual(self.post(address, data).status_code, code)
        large = self.post("/keep/draft", {"link": "x" * 600_000})
        self.assertEqual(large.status_code, 413)
        self.assertIn(
            "larger than is taken here (at most 512 kB): nothing of it was kept",
            large.get_data(as_text=True),
        )
        self.assertEqual(self.client.get("/keep/draft").status_code, 404)
        self.assertEqual(self.client.put("/keep/draft").status_code, 405)

    def test_locked_says_when_to_come_again(self) -> None:
        fields = {**self.token(), "key": "tip_school", "value": "needle"}
        db.point(self.folder / FILE_NAME, SCHEMA, pragmas={"busy_timeout": 50})
        other = sqlite3.connect(self.folder / FILE_NAME, isolation_level=None)
        other.execute("BEGIN IMMEDIATE")
        done = self.client.post("/shop/schools", data=fields)
        other.close()
        self.assertEqual((done.status_code, done.headers["Retry-After"]), (503, "2"))


class TwoBrowsers(WebCase):
    def test_second_save_is_told_and_may_choose(self) -> None:
        self.keep()
        one, two = "joint=outside-corner&length=400+mm", "joint=outside-corner&length=500+mm"
        self.assertEqual(
            self.post("/keep/draft", {"link": one, "draft": "P-0001", "edit": "1"}).status_code, 303
        )
        clash = self.post("/keep/draft", {"link": two, "draft": "P-0001", "edit": "1"})
        text = clash.get_data(as_text=True)
        self.assertEqual(clash.status_code, 409)
        for words in (
            "another hand",
            "Save mine over it",
            "Keep mine as a new draft",
            "length=500",
            "&amp;draft=P-0001&amp;edit=1",
            "/compare?left=kept:P-0001/A",
        ):
            self.assertIn(words, text)
        self.assertEqual(
            self.post("/keep/draft", {"link": two, "draft": "P-0001", "edit": "2"}).status_code, 303
        )

    def test_counter_that_is_no_number(self) -> None:
        self.keep()
        self.assertEqual(
            self.post(
                "/keep/draft", {"link": "joint=tee", "draft": "P-0001", "edit": "x"}
            ).status_code,
            409,
        )


class FileTakenAway(WebCase):
    """The data file deleted or changed for another while it is served: nothing is acknowledged that
    is not there.
    """

    def test_deleted(self) -> None:
        here = self.keep()
        fields = {**self.token(here), **self.run_form(notes="a long note", outcome="no")}
        (self.folder / FILE_NAME).unlink()
        for address, form in (
            (here + "/runs", fields),
            ("/keep/draft", {**fields, "link": "joint=tee&length=321+mm"}),
            ("/shop/schools", fields),
        ):
            done = self.client.post(address, data=form)
            with self.subTest(address=address):
                self.assertIn(done.status_code, (409, 422))
                self.assertRegex(
                    done.get_data(as_text=True), "nothing counts as kept|must be one of"
                )
        self.assertIn(
            "a long note", self.client.post(here + "/runs", data=fields).get_data(as_text=True)
        )
        self.assertEqual(self.client.get("/keep/").status_code, 409)
        self.assertEqual(self.client.get("/?joint=tee").status_code, 200)
        self.assertFalse((self.folder / FILE_NAME).exists())

    def test_changed_for_another(self) -> None:
        """What is acknowledged from then on is in the other."""
        other = self.folder / "other.sqlite3"
        maintenance.backup(self.folder, self.folder / "copies").rename(other)
        self.keep()
        other.replace(self.folder / FILE_NAME)
        for _ in range(20):
            here = self.keep()
        self.assertEqual(here, "/keep/P-0020/A")
        db.close()
        with sqlite3.connect(self.folder / FILE_NAME) as file:
            self.assertEqual(file.execute("SELECT count(*) FROM procedure").fetchone(), (20,))
        file.close()


class FailingData(WebCase):
    def test_locked_keeps_what_was_typed(self) -> None:
        here = self.keep()
        fields = {**self.token(here), **self.run_form(notes="a long note", outcome="no")}
        db.point(self.folder / FILE_NAME, SCHEMA, pragmas={"busy_timeout": 50})
        other = sqlite3.connect(self.folder / FILE_NAME, isolation_level=None)
        other.execute("BEGIN IMMEDIATE")
        try:
            done = self.client.post(here + "/runs", data=fields)
            draft = self.client.post(
                "/keep/draft", data={**fields, "link": "joint=tee&length=321+mm"}
            )
        finally:
            other.execute("ROLLBACK")
            other.close()
        self.assertEqual((done.status_code, draft.status_code), (503, 503))
        self.assertIn("a long note", done.get_data(as_text=True))
        self.assertIn("held by another program", done.get_data(as_text=True))
        self.assertIn("321", draft.get_data(as_text=True))

    def test_read_only(self) -> None:
        fields = {**self.token(), "link": "joint=tee"}
        db.point(self.folder / FILE_NAME, SCHEMA, "ro")
        done = self.client.post("/keep/draft", data=fields)
        self.assertEqual(done.status_code, 403)
        self.assertIn("cannot be written", done.get_data(as_text=True))

    def test_data_folder_that_is_a_file(self) -> None:
        from wisearc.services.errors import ReadOnly
        from wisearc.web import create_app

        (self.folder / "file").write_text("not a folder")
        with self.assertRaisesRegex(ReadOnly, "cannot be written"):
            create_app(self.folder / "file")

    def test_secret_is_kept_to_its_owner(self) -> None:
        self.assertEqual((self.folder / "secret").stat().st_mode & 0o077, 0)

    def test_open_pages_outlive_a_restart(self) -> None:
        from wisearc.web import create_app

        fields = {**self.token(), "link": "joint=tee"}
        name = self.app.config["SESSION_COOKIE_NAME"]
        cookie = self.client.get_cookie(name)
        again = client_of(create_app(self.folder, TESTING=True))
        again.set_cookie(name, cookie.value)
        self.assertEqual(again.post("/keep/draft", data=fields).status_code, 303)


class NotToBeShown(WebCase):
    def spoil(self, **changes: object) -> str:
        """A kept draft whose plan was changed in the database by hand; its address."""
        here = self.keep()
        with sqlite3.connect(self.folder / FILE_NAME) as file:
            plan = json.loads(file.execute("SELECT plan FROM revision").fetchone()[0])
            file.execute("UPDATE revision SET plan = ?", (json.dumps({**plan, **changes}),))
        file.close()
        return here

    def test_spoilt_or_newer_is_said_on_every_face_and_can_be_saved(self) -> None:
        for changes, words in (({"torch": 3}, "plan.torch"), ({"minor": 99}, "newer version")):
            here = self.spoil(**changes)
            for face in ("", "/print", "/drawings"):
                done = self.client.get(here + face)
                with self.subTest(changes=changes, face=face):
                    self.assertEqual(done.status_code, 409)
                    self.assertIn(words, done.get_data(as_text=True))
                    self.assertIn(f'href="{here}.json"', done.get_data(as_text=True))
            self.assertEqual(self.client.get(here + ".json").status_code, 200)
            self.assertEqual(self.client.get("/keep/").status_code, 200)
            self.assertEqual(
                self.client.get(f"/compare?left=kept:{here[6:]}&right=joint=tee").status_code, 409
            )

    def test_compare_of_what_is_not_there(self) -> None:
        self.assertEqual(
            self.client.get("/compare?left=kept:P-0099/A&right=kept:hat").status_code, 404
        )


class Files(WebCase):
    def test_out_and_in(self) -> None:
        here = self.keep()
        sent = self.client.get(here + ".json")
        self.assertIn("P-0001-A.json", sent.headers["Content-Disposition"])
        done = self.post("/keep/read", {"file": (io.BytesIO(sent.data), "p.json")}, page="/keep/")
        self.assertEqual(done.headers["Location"], "/keep/P-0001/A?taken=known")
        self.assertIn(
            "holds this file already",
            self.client.get(done.headers["Location"]).get_data(as_text=True),
        )
        changed = json.dumps({**sent.get_json(), "title": "Another"}).encode()
        done = self.post("/keep/read", {"file": (io.BytesIO(changed), "p.json")}, page="/keep/")
        self.assertEqual(done.headers["Location"], "/keep/P-0002/A?taken=renumbered")

    def test_refused_with_a_sentence(self) -> None:
        here = self.keep()
        good = json.loads(self.client.get(here + ".json").data)
        for data, words in (
            (b"{", "is not JSON"),
            (b"\xff\xfe", "not UTF-8"),
            (b"[]", "must be one JSON object"),
            (json.dumps({**good, "status": "fine"}).encode(), "must be one of draft"),
        ):
            done = self.post("/keep/read", {"file": (io.BytesIO(data), "p.json")}, page="/keep/")
            self.assertEqual(done.status_code, 422)
            self.assertIn(words, done.get_data(as_text=True))
        self.assertIn(
            "No file was chosen", self.post("/keep/read", {}, page="/keep/").get_data(as_text=True)
        )


class Book(WebCase):
    def test_empty_says_what_to_do(self) -> None:
        self.assertIn("Nothing is kept yet", self.client.get("/keep/").get_data(as_text=True))

    def test_search(self) -> None:
        self.keep("joint=tee&title=Bracket+foot")
        self.keep("joint=butt&title=Panel")
        text = self.client.get("/keep/?q=bracket").get_data(as_text=True)
        self.assertIn("Bracket foot", text)
        self.assertNotIn("Panel", text)
        self.assertIn(
            "Nothing in the book matches",
            self.client.get("/keep/?q=100%25_zebra").get_data(as_text=True),
        )


if __name__ == "__main__":
    unittest.main()
