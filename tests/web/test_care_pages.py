"""The book looked after over HTTP: long work begun, watched, stopped; what is refused."""

import io
import time
import unittest

from wisearc.store.folder import COPIES

from tests.web.case import WebCase


class Care(WebCase):
    def begin(self, act: str, **form: object) -> int:
        return self.post(f"/shop/{act}", form, page="/shop/").status_code

    def ended(self) -> str:
        """What the work's page says at its end."""
        until = time.monotonic() + 30
        while time.monotonic() < until:
            done = self.client.get("/shop/work")
            if "Refresh" not in done.headers:
                return done.get_data(as_text=True)
            self.assertIn("Stop it", done.get_data(as_text=True))
            time.sleep(0.1)
        raise AssertionError("it goes on and on")

    def test_one_at_a_time_and_what_comes_of_it(self) -> None:
        self.keep()
        self.assertEqual(self.client.get("/shop/work").headers["Location"], "/shop/")
        self.assertEqual(self.begin("export"), 303)
        refused = self.post("/shop/check", {}, page="/shop/")
        self.assertEqual(refused.status_code, 409)
        self.assertIn("The archive is still going on", refused.get_data(as_text=True))
        text = self.ended()
        self.assertIn("1 procedures in 1 revisions with 0 runs are in", text)
        name = text.split("/shop/copies/")[1].split('"')[0]
        with self.client.get(f"/shop/copies/{name}") as file:
            self.assertIn(name, file.headers["Content-Disposition"])
            sent = file.data
        self.assertEqual(self.begin("import", file=(io.BytesIO(sent), "book.zip")), 303)
        self.assertIn("1 stood in the book already", self.ended())

    def test_stopped(self) -> None:
        self.keep()
        self.begin("backup")
        self.post("/shop/work/stop", {}, page="/shop/")
        text = self.ended()
        self.assertTrue("Stopped; nothing was changed" in text or "is copied to" in text)
        self.assertEqual([p.name for p in (self.folder / COPIES).glob("*part*")] if (self.folder / COPIES).exists() else [], [])

    def test_refused_with_a_sentence(self) -> None:
        for act in ("import", "restore"):
            done = self.post(f"/shop/{act}", {}, page="/shop/")
            self.assertEqual(done.status_code, 422)
            self.assertIn("No file was chosen", done.get_data(as_text=True))
        self.begin("import", file=(io.BytesIO(b"x"), "../../evil <b>.zip"))
        self.assertIn("evil_b.zip”: is not a zip file", self.ended())
        self.begin("restore", file=(io.BytesIO(b"x" * 5000), "a.sqlite3"))
        self.assertIn("a.sqlite3”: is not a sound database", self.ended())
        self.assertEqual(self.post("/shop/restore", {"name": "../secret"}, page="/shop/").status_code, 404)
        for name in ("x.zip", "..%2Fsecret", "secret"):
            self.assertEqual(self.client.get(f"/shop/copies/{name}").status_code, 404)
        self.assertEqual(list(self.folder.glob("sent*")), [])

    def test_a_larger_post_where_it_is_wanted_alone(self) -> None:
        large = io.BytesIO(b"x" * 5_000_000)
        self.assertEqual(self.post("/keep/read", {"file": (large, "p.json")}, page="/keep/").status_code, 413)
        self.assertEqual(self.begin("import", file=(io.BytesIO(b"x" * 5_000_000), "p.zip")), 303)
        self.ended()


if __name__ == "__main__":
    unittest.main()
