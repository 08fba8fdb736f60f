"""Keep over HTTP: draft, run, proof, print, files; two browsers; a database that fails."""

import io
import json
import sqlite3
import unittest

from tests.web.case import WebCase
from wisearc.store.database import db
from wisearc.store.folder import FILE_NAME
from wisearc.store.opening import SCHEMA


class TheWay(WebCase):
    def test_draft_run_proved_print(self) -> None:
        here = self.keep()
        self.assertEqual(here, "/keep/P-0001/A")
        self.assertIn("draft", self.client.get(here).get_data(as_text=True))
        done = self.post(
            here + "/runs", self.run_form(**{"measured.arc_time_s": "112,5", "set.current_a": "110"}), page=here
        )
        self.assertIn("taken=proved", done.headers["Location"])
        text = self.client.get(here).get_data(as_text=True)
        self.assertIn("Plan a change", text)
        self.assertIn("112.5 s", text)
        sheet = self.client.get(here + "/print").get_data(as_text=True)
        for words in ("P-0001", "proved", "R.T.", "not a qualified procedure", "<svg"):
            self.assertIn(words, sheet)
        self.assertEqual(self.client.get(here + "/drawings").get_data(as_text=True).count("<svg"), 5)

    def test_later_change_makes_revision_b(self) -> None:
        here = self.keep()
        self.post(here + "/runs", self.run_form(), page=here)
        done = self.post(
            "/keep/draft", {"link": "joint=outside-corner&a.thickness=16+ga&length=400+mm", "from": "P-0001"}
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
        first, second = (self.client.post("/keep/draft", data=fields).headers["Location"] for _ in range(2))
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
            "must be from 1 to 60",
            "Say what the front looks like",
            "kept &lt;b&gt;words",
            'value="fifty"',
        ):
            self.assertIn(words, text)

    def test_a_fault_cannot_prove(self) -> None:
        here = self.keep()
        done = self.post(here + "/runs", self.run_form(faults=["hole"]), page=here)
        self.assertEqual(done.status_code, 422)
        self.assertIn("cannot prove a procedure", done.get_data(as_text=True))

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
        for address in ("/keep/P-0077", "/keep/P-0077/A", "/keep/zebra/A/print", "/keep/P-0077/A.json"):
            self.assertEqual(self.client.get(address).status_code, 404, address)


class TwoBrowsers(WebCase):
    def test_second_save_is_told_and_may_choose(self) -> None:
        self.keep()
        one, two = "joint=outside-corner&length=400+mm", "joint=outside-corner&length=500+mm"
        self.assertEqual(self.post("/keep/draft", {"link": one, "draft": "P-0001", "edit": "1"}).status_code, 303)
        clash = self.post("/keep/draft", {"link": two, "draft": "P-0001", "edit": "1"})
        text = clash.get_data(as_text=True)
        self.assertEqual(clash.status_code, 409)
        for words in ("another hand", "Save mine over it", "Keep mine as a new draft", "length=500"):
            self.assertIn(words, text)
        self.assertEqual(self.post("/keep/draft", {"link": two, "draft": "P-0001", "edit": "2"}).status_code, 303)

    def test_counter_that_is_no_number(self) -> None:
        self.keep()
        self.assertEqual(
            self.post("/keep/draft", {"link": "joint=tee", "draft": "P-0001", "edit": "x"}).status_code, 409
        )


class FailingData(WebCase):
    def test_locked_keeps_what_was_typed(self) -> None:
        here = self.keep()
        fields = {**self.token(here), **self.run_form(notes="a long note", outcome="no")}
        db.point(self.folder / FILE_NAME, SCHEMA, pragmas={"busy_timeout": 50})
        other = sqlite3.connect(self.folder / FILE_NAME, isolation_level=None)
        other.execute("BEGIN IMMEDIATE")
        try:
            done = self.client.post(here + "/runs", data=fields)
            draft = self.client.post("/keep/draft", data={**fields, "link": "joint=tee&length=321+mm"})
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
        self.assertEqual(done.status_code, 503)
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
        again = create_app(self.folder, TESTING=True).test_client()
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
            self.assertEqual(self.client.get(f"/compare?left=kept:{here[6:]}&right=joint=tee").status_code, 409)

    def test_compare_of_what_is_not_there(self) -> None:
        self.assertEqual(self.client.get("/compare?left=kept:P-0099/A&right=kept:hat").status_code, 404)


class Files(WebCase):
    def test_out_and_in(self) -> None:
        here = self.keep()
        sent = self.client.get(here + ".json")
        self.assertIn("P-0001-A.json", sent.headers["Content-Disposition"])
        done = self.post("/keep/read", {"file": (io.BytesIO(sent.data), "p.json")}, page="/keep/")
        self.assertEqual(done.headers["Location"], "/keep/P-0001/A?taken=known")
        self.assertIn("holds this file already", self.client.get(done.headers["Location"]).get_data(as_text=True))
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
        self.assertIn("no file was chosen", self.post("/keep/read", {}, page="/keep/").get_data(as_text=True))


class Book(WebCase):
    def test_empty_says_what_to_do(self) -> None:
        self.assertIn("Nothing is kept yet", self.client.get("/keep/").get_data(as_text=True))

    def test_search(self) -> None:
        self.keep("joint=tee&title=Bracket+foot")
        self.keep("joint=butt&title=Panel")
        text = self.client.get("/keep/?q=bracket").get_data(as_text=True)
        self.assertIn("Bracket foot", text)
        self.assertNotIn("Panel", text)
        self.assertIn("Nothing in the book matches", self.client.get("/keep/?q=100%25_zebra").get_data(as_text=True))


if __name__ == "__main__":
    unittest.main()
