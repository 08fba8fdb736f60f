"""Errors on the pages of the procedures: invalid input, two browsers, missing and damaged data."""

import io
import json
import re
import sqlite3
import unittest

from tests.samples import EVERY, run
from tests.web.case import WebCase, build_client
from wisearc.services.maintenance import maintenance
from wisearc.store.database import db
from wisearc.store.folder import FILE_NAME
from wisearc.store.opening import SCHEMA


class BadInput(WebCase):
    def test_each_field_shows_its_error_and_entries_remain(self) -> None:
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
            page=here + "/runs",
        )
        self.assertEqual(done.status_code, 422)
        text = done.get_data(as_text=True)
        for words in (
            "“soon” is not a date",
            "Enter your initials",
            "“fifty” must be a number",
            "must be from 1 L/min to 60 L/min",
            "Select the tint of the face",
            "kept &lt;b&gt;words",
            'value="fifty"',
        ):
            self.assertIn(words, text)

    def test_good_run_on_a_plan_with_cautions_needs_a_second_inspection(self) -> None:
        link = "joint=butt&a.thickness=1.5+mm&length=200+mm&pins.flow_l_min=18"
        here = self.keep(link)
        self.assertIn(
            "checked this caution again", self.client.get(here + "/runs").get_data(as_text=True)
        )
        made = run({**EVERY["butt"], "length": "200 mm", "pins": {"flow_l_min": 18}})
        told = {
            f"{part}.{key}": str(value)
            for part in ("set", "used", "measured")
            for key, value in made[part].items()
        }
        form = {**self.run_form(), **told, "notes": "as it went"}
        done = self.post(here + "/runs", form, page=here + "/runs")
        text = done.get_data(as_text=True)
        self.assertEqual(done.status_code, 422)
        self.assertIn("Check them and tick the box", text)
        self.assertIn("as it went", text)
        not_good = {**form, "outcome": "not-good"}
        self.assertEqual(self.post(here + "/runs", not_good, page=here + "/runs").status_code, 303)
        # not by the other button either, where the run turns out to be as planned
        done = self.post(here + "/runs", {**form, "outcome": "as-done"}, page=here + "/runs")
        self.assertEqual(done.status_code, 422)
        self.assertIn("Check them and tick the box", done.get_data(as_text=True))
        # Not by correcting a bad run either.
        page = self.read_page(here + "/runs")
        (number,) = re.findall(r'href="[^"]*/runs/([0-9]+)/correct"', page)
        correct = f"{here}/runs/{number}/correct"
        right = {**form, "outcome": "good", "corrected_by": form["who"]}
        done = self.post(correct, right, page=correct)
        self.assertEqual(done.status_code, 422)
        self.assertIn("Check them and tick the box", done.get_data(as_text=True))
        self.assertNotIn("state-proved", self.read_page(here))
        done = self.post(correct, {**right, "second_look": "yes"}, page=correct)
        self.assertEqual(done.status_code, 303)
        self.assertIn("state-proved", self.read_page(here))

    def test_as_done_and_yet_as_planned_is_recorded_as_good(self) -> None:
        here = self.keep()
        done = self.post(here + "/runs", self.run_form(outcome="as-done"), page=here + "/runs")
        self.assertIn("taken=proved", done.headers["Location"])
        text = " ".join(self.read_page(done.headers["Location"]).split())
        self.assertIn("is verified and cannot change", text)

    def read_page(self, address: str) -> str:
        return str(self.client.get(address).get_data(as_text=True))

    def test_a_fault_cannot_prove(self) -> None:
        here = self.keep()
        done = self.post(here + "/runs", self.run_form(faults=["hole"]), page=here + "/runs")
        self.assertEqual(done.status_code, 422)
        self.assertIn("Record the run as not good", done.get_data(as_text=True))

    def test_forged_post_is_refused(self) -> None:
        for address in ("/procedures/draft", "/procedures/P-0001/A/runs", "/procedures/read"):
            done = self.client.post(address, data={"link": "joint=tee"})
            self.assertEqual(done.status_code, 400)
            self.assertIn("reload it and save again", done.get_data(as_text=True))

    def test_nonsense_link_is_not_kept(self) -> None:
        done = self.post("/procedures/draft", {"link": "joint=banana"})
        self.assertEqual(done.status_code, 400)
        self.assertIn("Not saved", done.get_data(as_text=True))

    def test_no_such_record(self) -> None:
        for address in (
            "/procedures/P-0077",
            "/procedures/P-0077/A",
            "/procedures/zebra/A/print",
            "/procedures/P-0077/A.json",
        ):
            self.assertEqual(self.client.get(address).status_code, 404, address)


class TwoBrowsers(WebCase):
    def test_edit_conflict_is_reported_with_a_choice(self) -> None:
        self.keep()
        one, two = "joint=outside-corner&length=400+mm", "joint=outside-corner&length=500+mm"
        self.assertEqual(
            self.post(
                "/procedures/draft", {"link": one, "draft": "P-0001", "edit": "1"}
            ).status_code,
            303,
        )
        clash = self.post("/procedures/draft", {"link": two, "draft": "P-0001", "edit": "1"})
        text = clash.get_data(as_text=True)
        self.assertEqual(clash.status_code, 409)
        for words in (
            "someone else",
            "Overwrite with mine",
            "Save mine as a new draft",
            "length=500",
            "&amp;draft=P-0001&amp;edit=1",
            "/compare?left=kept:P-0001/A",
        ):
            self.assertIn(words, text)
        self.assertEqual(
            self.post(
                "/procedures/draft", {"link": two, "draft": "P-0001", "edit": "2"}
            ).status_code,
            303,
        )

    def test_counter_that_is_no_number(self) -> None:
        self.keep()
        self.assertEqual(
            self.post(
                "/procedures/draft", {"link": "joint=tee", "draft": "P-0001", "edit": "x"}
            ).status_code,
            409,
        )


class FileTakenAway(WebCase):
    """The data file deleted or changed for another while it is served.

    Nothing is acknowledged that is not there.
    """

    def test_deleted(self) -> None:
        here = self.keep()
        fields = {**self.token(here + "/runs"), **self.run_form(notes="a long note", outcome="no")}
        (self.folder / FILE_NAME).unlink()
        for address, form in (
            (here + "/runs", fields),
            ("/procedures/draft", {**fields, "link": "joint=tee&length=321+mm"}),
            ("/shop/preferences", fields),
        ):
            done = self.client.post(address, data=form)
            with self.subTest(address=address):
                self.assertIn(done.status_code, (409, 422))
                self.assertRegex(
                    done.get_data(as_text=True), "Not saved: the data file|must be one of"
                )
        self.assertIn(
            "a long note", self.client.post(here + "/runs", data=fields).get_data(as_text=True)
        )
        self.assertEqual(self.client.get("/procedures/").status_code, 409)
        self.assertEqual(self.client.get("/?joint=tee").status_code, 200)
        self.assertFalse((self.folder / FILE_NAME).exists())

    def test_changed_for_another(self) -> None:
        """Acknowledged data from then on is in the other library."""
        other = self.folder / "other.sqlite3"
        maintenance.create_backup(self.folder, self.folder / "copies").rename(other)
        self.keep()
        other.replace(self.folder / FILE_NAME)
        for _ in range(20):
            here = self.keep()
        self.assertEqual(here, "/procedures/P-0020/A")
        db.close()
        with sqlite3.connect(self.folder / FILE_NAME) as file:
            self.assertEqual(file.execute("SELECT count(*) FROM procedure").fetchone(), (20,))
        file.close()


class FailingData(WebCase):
    def test_busy_database_keeps_the_entries(self) -> None:
        here = self.keep()
        fields = {**self.token(here + "/runs"), **self.run_form(notes="a long note", outcome="no")}
        db.point(self.folder / FILE_NAME, SCHEMA, pragmas={"busy_timeout": 50})
        other = sqlite3.connect(self.folder / FILE_NAME, isolation_level=None)
        other.execute("BEGIN IMMEDIATE")
        try:
            done = self.client.post(here + "/runs", data=fields)
            draft = self.client.post(
                "/procedures/draft", data={**fields, "link": "joint=tee&length=321+mm"}
            )
        finally:
            other.execute("ROLLBACK")
            other.close()
        self.assertEqual((done.status_code, draft.status_code), (503, 503))
        self.assertIn("a long note", done.get_data(as_text=True))
        self.assertIn("another program is using", done.get_data(as_text=True))
        self.assertIn("321", draft.get_data(as_text=True))

    def test_read_only(self) -> None:
        fields = {**self.token(), "link": "joint=tee"}
        db.point(self.folder / FILE_NAME, SCHEMA, "ro")
        done = self.client.post("/procedures/draft", data=fields)
        self.assertEqual(done.status_code, 403)
        self.assertIn("is read-only", done.get_data(as_text=True))

    def test_data_folder_that_is_a_file(self) -> None:
        from wisearc.services.errors import ReadOnly
        from wisearc.web import create_app

        (self.folder / "file").write_text("not a folder")
        with self.assertRaisesRegex(ReadOnly, "is read-only"):
            create_app(self.folder / "file")

    def test_secret_is_kept_to_its_owner(self) -> None:
        self.assertEqual((self.folder / "secret").stat().st_mode & 0o077, 0)

    def test_open_pages_outlive_a_restart(self) -> None:
        from wisearc.web import create_app

        fields = {**self.token(), "link": "joint=tee"}
        name = self.app.config["SESSION_COOKIE_NAME"]
        cookie = self.client.get_cookie(name)
        again = build_client(create_app(self.folder, TESTING=True))
        again.set_cookie(name, cookie.value)
        self.assertEqual(again.post("/procedures/draft", data=fields).status_code, 303)


class UnreadableRecords(WebCase):
    def spoil(self, **changes: object) -> str:
        """A kept draft whose plan was changed in the database by hand; its address."""
        here = self.keep()
        with sqlite3.connect(self.folder / FILE_NAME) as file:
            plan = json.loads(file.execute("SELECT plan FROM revision").fetchone()[0])
            file.execute("UPDATE revision SET plan = ?", (json.dumps({**plan, **changes}),))
        file.close()
        return here

    def test_damaged_or_newer_record_is_reported_on_every_page(self) -> None:
        for changes, words in (({"torch": 3}, "plan.torch"), ({"minor": 99}, "newer version")):
            here = self.spoil(**changes)
            for face in ("", "/print", "/drawings"):
                done = self.client.get(here + face)
                with self.subTest(changes=changes, face=face):
                    self.assertEqual(done.status_code, 409)
                    self.assertIn(words, done.get_data(as_text=True))
                    self.assertIn(f'href="{here}.json"', done.get_data(as_text=True))
            self.assertEqual(self.client.get(here + ".json").status_code, 200)
            self.assertEqual(self.client.get("/procedures/").status_code, 200)
            self.assertEqual(
                self.client.get(
                    f"/compare?left=kept:{here.removeprefix('/procedures/')}&right=joint=tee"
                ).status_code,
                409,
            )

    def test_compare_with_a_missing_revision(self) -> None:
        self.assertEqual(
            self.client.get("/compare?left=kept:P-0099/A&right=kept:hat").status_code, 404
        )


class Files(WebCase):
    def test_out_and_in(self) -> None:
        here = self.keep()
        sent = self.client.get(here + ".json")
        self.assertIn("P-0001-A.json", sent.headers["Content-Disposition"])
        done = self.post(
            "/procedures/read", {"file": (io.BytesIO(sent.data), "p.json")}, page="/procedures/"
        )
        self.assertEqual(done.headers["Location"], "/procedures/P-0001/A?taken=known")
        self.assertIn(
            "already contains this file",
            self.client.get(done.headers["Location"]).get_data(as_text=True),
        )
        changed = json.dumps({**sent.get_json(), "title": "Add"}).encode()
        done = self.post(
            "/procedures/read", {"file": (io.BytesIO(changed), "p.json")}, page="/procedures/"
        )
        self.assertEqual(done.headers["Location"], "/procedures/P-0002/A?taken=renumbered")

    def test_refused_with_a_sentence(self) -> None:
        here = self.keep()
        good = json.loads(self.client.get(here + ".json").data)
        for data, words in (
            (b"{", "is not JSON"),
            (b"\xff\xfe", "not UTF-8"),
            (b"[]", "must be one JSON object"),
            (json.dumps({**good, "status": "fine"}).encode(), "must be one of draft"),
        ):
            done = self.post(
                "/procedures/read", {"file": (io.BytesIO(data), "p.json")}, page="/procedures/"
            )
            self.assertEqual(done.status_code, 422)
            self.assertIn(words, done.get_data(as_text=True))
        self.assertIn(
            "No file chosen",
            self.post("/procedures/read", {}, page="/procedures/").get_data(as_text=True),
        )


if __name__ == "__main__":
    unittest.main()
