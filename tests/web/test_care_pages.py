"""Maintenance over HTTP: long work started, observed, cancelled; refusals."""

import io
import re
import time
import unittest
from unittest import mock

from tests.web.case import WebCase
from wisearc.services.maintenance.tasks import Task
from wisearc.store.folder import COPIES


class MaintenancePages(WebCase):
    def begin(self, act: str, **form: object) -> int:
        return self.post(f"/shop/{act}", form, page="/shop/").status_code

    def ended(self) -> str:
        """Return the text of the page at the end of the work."""
        until = time.monotonic() + 120
        while time.monotonic() < until:
            done = self.client.get("/shop/work")
            if "Refresh" not in done.headers:
                return done.get_data(as_text=True)
            self.assertIn("Cancel", done.get_data(as_text=True))
            time.sleep(0.1)
        raise AssertionError("it goes on and on")

    def test_one_task_at_a_time_and_its_result(self) -> None:
        self.keep()
        self.assertEqual(self.client.get("/shop/work").headers["Location"], "/shop/maintenance")
        self.assertEqual(self.begin("export"), 303)
        refused = self.post("/shop/check", {}, page="/shop/")
        self.assertEqual(refused.status_code, 409)
        self.assertIn("Export is still running", refused.get_data(as_text=True))
        text = self.ended()
        self.assertIn("holds 1 procedure in 1 revision with 0 runs", text)
        name = text.split("/shop/copies/")[1].split('"')[0]
        with self.client.get(f"/shop/copies/{name}") as file:
            self.assertIn(name, file.headers["Content-Disposition"])
            sent = file.data
        self.assertEqual(self.begin("import", file=(io.BytesIO(sent), "book.zip")), 303)
        place = self.shown()
        self.assertIn("0 new, 1 already here, 0 with a number in use", self.text(place))
        self.assertEqual(self.post(place, {}).status_code, 303)
        self.assertIn("already in the library: 1", self.ended())
        self.assertEqual(self.client.get(place).status_code, 404)

    def text(self, path: str) -> str:
        return str(self.client.get(path).get_data(as_text=True))

    def shown(self) -> str:
        """Return the address of the result of a preview, after its end."""
        return re.search(r'href="(/shop/incoming/[0-9a-f]+)"', self.ended())[1]

    def archive(self) -> bytes:
        """Return an archive of the library."""
        self.begin("export")
        name = self.ended().split("/shop/copies/")[1].split('"')[0]
        with self.client.get(f"/shop/copies/{name}") as file:
            return file.data

    def test_number_in_use_is_decided_side_by_side(self) -> None:
        here = self.keep()
        sent = self.archive()
        self.assertEqual(self.begin("begin"), 303)
        self.ended()
        self.keep("joint=tee&a.thickness=2+mm&length=200+mm")
        for decision, words, numbers in (
            ("skip", "skipped: 1", ["P-0001 A"]),
            ("add", "with new numbers: 1", ["P-0001 A", "P-0002 A"]),
        ):
            self.begin("import", file=(io.BytesIO(sent), "book.zip"))
            place = self.shown()
            text = self.text(f"{place}?side=P-0001")
            self.assertIn("0 new, 0 already here, 1 with a number in use", text)
            self.assertIn("P-0001 side by side", text)
            self.assertEqual(self.post(place, {"choice-P-0001": decision}).status_code, 303)
            self.assertIn(words, self.ended())
            listed = re.findall(r'class="row-link"[^>]*>([^<]+)<', self.text("/procedures/"))
            self.assertEqual(sorted(listed), numbers)
        self.assertEqual(here, "/procedures/P-0001/A")

    def test_same_number_is_retired_by_decision(self) -> None:
        self.keep()
        sent = self.archive()
        self.begin("begin")
        self.ended()
        mine = self.keep("joint=tee&a.thickness=2+mm&length=200+mm")
        self.begin("import", file=(io.BytesIO(sent), "book.zip"))
        self.post(self.shown(), {"choice-P-0001": "replace"})
        self.assertIn("retired here: 1", self.ended())
        self.assertIn("was archived on", self.text(mine))
        self.assertIn("From", self.text("/procedures/P-0002/A/changes"))

    def test_cancelled_import_leaves_nothing(self) -> None:
        self.keep()
        sent = self.archive()
        self.begin("import", file=(io.BytesIO(sent), "book.zip"))
        place = self.shown()
        self.assertEqual(self.post(place, {"drop": "yes"}).status_code, 303)
        self.assertEqual(self.client.get(place).status_code, 404)
        self.assertEqual(list(self.folder.glob("incoming*")), [])

    def test_restore_asks_once_with_counts_and_dates(self) -> None:
        self.keep()
        self.begin("backup")
        self.assertIn("Library copied to", self.ended())
        (backup,) = (self.folder / COPIES).glob("wisearc-*.zip")
        self.keep("joint=tee&a.thickness=2+mm&length=200+mm")
        asked = self.post("/shop/restore", {"name": backup.name})
        text = asked.get_data(as_text=True)
        self.assertEqual(asked.status_code, 200)
        row = r'Procedures</th><td data-label="Backup" class="num">1</td>'
        self.assertRegex(text, row + r'<td data-label="Present" class="num">2</td>')
        self.assertIn("P-0002", self.text("/procedures/"))
        done = self.post("/shop/restore", {"name": backup.name, "sure": "yes"})
        self.assertEqual(done.status_code, 303)
        self.assertIn("Library restored", self.ended())
        self.assertNotIn("P-0002", self.text("/procedures/"))
        # The same file from another computer.
        sent = io.BytesIO(backup.read_bytes())
        asked = self.post("/shop/restore", {"file": (sent, "carried.zip")})
        token = re.search(r'name="token" value="([0-9a-f]+)"', asked.get_data(as_text=True))[1]
        self.post("/shop/restore", {"token": token, "sure": "yes"})
        self.assertIn("Library restored", self.ended())

    def test_one_procedure_for_another_shop(self) -> None:
        self.keep()
        self.keep("joint=tee&a.thickness=2+mm&length=200+mm")
        self.assertIn("Send to another shop", self.text("/procedures/P-0002/A/documents"))
        self.begin("export", only="P-0002")
        self.assertIn("holds 1 procedure in 1 revision", self.ended())

    def test_stopped(self) -> None:
        self.keep()
        self.begin("backup")
        self.post("/shop/work/stop", {}, page="/shop/")
        text = self.ended()
        copies = list((self.folder / COPIES).glob("*")) if (self.folder / COPIES).exists() else []
        # If it had ended already, the page shows the result.
        self.assertEqual(
            ("Cancelled. No changes were made" in text, "Library copied to" in text),
            (not copies, bool(copies)),
        )

    def test_task_finished_before_cancellation(self) -> None:
        work = Task(
            "Restore",
            mock.Mock(),
            said=["Library restored"],
            code=0,
            stopped=True,
        )
        self.assertEqual(work.sentence, "Library restored.")
        self.assertNotIn("No changes were made", work.sentence)
        work.code = 130
        self.assertEqual(work.sentence, "Cancelled. No changes were made.")

    def test_refused_with_a_sentence(self) -> None:
        for act in ("import", "restore"):
            done = self.post(f"/shop/{act}", {}, page="/shop/")
            self.assertEqual(done.status_code, 422)
            self.assertIn("No file chosen", done.get_data(as_text=True))
        self.begin("import", file=(io.BytesIO(b"x"), "../../evil <b>.zip"))
        self.assertRegex(
            self.ended(), "File “evil_b.zip” is not a zip file.* No changes were made[.]"
        )
        sent = {"file": (io.BytesIO(b"x" * 5000), "a.sqlite3")}
        refused = self.post("/shop/restore", sent)
        self.assertEqual(refused.status_code, 422)
        self.assertRegex(
            refused.get_data(as_text=True),
            "a.sqlite3” is not a valid database.* No changes were made[.]",
        )
        self.assertEqual(
            self.post("/shop/restore", {"name": "../secret"}, page="/shop/").status_code, 404
        )
        for name in ("x.zip", "..%2Fsecret", "secret"):
            self.assertEqual(self.client.get(f"/shop/copies/{name}").status_code, 404)
        self.assertEqual(list(self.folder.glob("incoming*")), [])

    def test_a_larger_post_where_it_is_wanted_alone(self) -> None:
        large = io.BytesIO(b"x" * 5_000_000)
        refused = self.post("/procedures/read", {"file": (large, "p.json")}, page="/procedures/")
        self.assertEqual(refused.status_code, 413)
        self.assertIn("maximum 4 MB", refused.get_data(as_text=True))
        self.assertEqual(self.begin("import", file=(io.BytesIO(b"x" * 5_000_000), "p.zip")), 303)
        self.ended()


if __name__ == "__main__":
    unittest.main()
