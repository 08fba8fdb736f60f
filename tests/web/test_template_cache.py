"""Compiled templates are saved, and pages do not depend on them."""

import tempfile
import unittest
from pathlib import Path
from unittest import mock

from jinja2 import Environment

from tests.folders import fill
from wisearc.store.database import db
from wisearc.web import create_app
from wisearc.web.context import get_context
from wisearc.web.template_cache import FOLDER


class TemplateCache(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        fill(self.folder)

    def get_plan(self) -> int:
        app = create_app(self.folder)
        try:
            return app.test_client().get("/?joint=tee").status_code
        finally:
            get_context(app).close()
            db.close()

    def test_second_start_does_not_compile(self) -> None:
        self.assertEqual(self.get_plan(), 200)
        self.assertEqual((self.folder / FOLDER).stat().st_mode & 0o077, 0)
        with mock.patch.object(Environment, "compile", side_effect=AssertionError("compiled")):
            self.assertEqual(self.get_plan(), 200)

    def test_damaged_files_are_replaced(self) -> None:
        self.get_plan()
        files = list((self.folder / FOLDER).iterdir())
        self.assertGreater(len(files), 3)
        for content in (b"", b"damaged", files[0].read_bytes()[:-20]):
            for path in files:
                path.write_bytes(content)
            with self.subTest(content=content[:10]):
                self.assertEqual(self.get_plan(), 200)

    def test_pages_open_without_the_cache(self) -> None:
        full = OSError(28, "No space left on device")
        with mock.patch("tempfile.NamedTemporaryFile", side_effect=full):
            self.assertEqual(self.get_plan(), 200)
        (self.folder / FOLDER).rmdir()
        (self.folder / FOLDER).write_text("not a folder")
        self.assertEqual(self.get_plan(), 200)


if __name__ == "__main__":
    unittest.main()
