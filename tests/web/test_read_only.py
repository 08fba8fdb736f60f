"""A read-only data folder.

Every page is readable, impossible actions are not offered, and nothing is lost.
"""

import shutil
import unittest
from unittest import mock

from tests.compiled import app_in
from tests.samples import run, typed
from tests.web.case import WebCase, build_client
from wisearc.services.maintenance import opening as services_opening
from wisearc.services.runs import runs
from wisearc.store import opening
from wisearc.store.database import db


class ReadOnly(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.here = self.keep()
        runs.record_run("P-0001", "A", typed(run()))
        db.close()
        shutil.rmtree(self.folder / "backups", ignore_errors=True)
        self.there = sorted(p.name for p in self.folder.iterdir())
        with (
            mock.patch.object(opening, "is_writable", return_value=False),
            mock.patch.object(services_opening, "is_writable", return_value=False),
        ):
            self.assertIsNone(services_opening.lock_folder(self.folder))
            self.app = app_in(self.folder, TESTING=True)
        self.client, self._csrf_token = build_client(self.app), ""

    def test_every_page_is_read(self) -> None:
        for path in (
            "/",
            "/plan",
            "/?joint=tee",
            "/procedures/",
            "/procedures/?q=304L",
            self.here,
            f"{self.here}/print",
            f"{self.here}/drawings",
            f"{self.here}.json",
            "/shop/",
            "/reference/",
        ):
            done = self.client.get(path)
            with self.subTest(path=path):
                self.assertEqual(done.status_code, 200)
        self.assertIn(
            "you can read the library",
            self.client.get("/procedures/").get_data(as_text=True),
        )
        self.assertNotIn("Record a run", self.client.get(self.here).get_data(as_text=True))
        self.assertNotIn("Make backup", self.client.get("/shop/").get_data(as_text=True))

    def test_unexpected_data_is_handled(self) -> None:
        for path, form in (
            ("/procedures/draft", {"link": "joint=tee&length=321+mm"}),
            (f"{self.here}/runs", self.run_form(notes="a long note")),
        ):
            done = self.post(path, form)
            with self.subTest(path=path):
                self.assertEqual(done.status_code, 403)
                self.assertIn("the data folder is read-only", done.get_data(as_text=True))
                self.assertRegex(done.get_data(as_text=True), "321|a long note")
        self.assertEqual(sorted(p.name for p in self.folder.iterdir()), self.there)


if __name__ == "__main__":
    unittest.main()
