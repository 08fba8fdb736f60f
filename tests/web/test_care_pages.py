"""Maintenance over HTTP: long work started, observed, cancelled; refusals."""

import io
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
        self.assertIn("already in the library: 1", self.ended())

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
        self.begin("restore", file=(io.BytesIO(b"x" * 5000), "a.sqlite3"))
        self.assertIn("a.sqlite3” is not a valid database", self.ended())
        self.assertEqual(
            self.post("/shop/restore", {"name": "../secret"}, page="/shop/").status_code, 404
        )
        for name in ("x.zip", "..%2Fsecret", "secret"):
            self.assertEqual(self.client.get(f"/shop/copies/{name}").status_code, 404)
        self.assertEqual(list(self.folder.glob("sent*")), [])

    def test_a_larger_post_where_it_is_wanted_alone(self) -> None:
        large = io.BytesIO(b"x" * 5_000_000)
        refused = self.post("/procedures/read", {"file": (large, "p.json")}, page="/procedures/")
        self.assertEqual(refused.status_code, 413)
        self.assertIn("maximum 4 MB", refused.get_data(as_text=True))
        self.assertEqual(self.begin("import", file=(io.BytesIO(b"x" * 5_000_000), "p.zip")), 303)
        self.ended()


if __name__ == "__main__":
    unittest.main()
