"""A test case for the application with a separate data folder."""

from __future__ import annotations

import re
import secrets
import tempfile
import unittest
from pathlib import Path
from typing import Any

from flask import Flask
from flask.testing import FlaskClient
from werkzeug.test import TestResponse

from tests import quick_pins  # noqa: F401
from tests.compiled import app_in
from tests.folders import fill
from tests.samples import run
from wisearc.store.database import db
from wisearc.web.context import get_context


class Answer(TestResponse):
    """An answer whose page reads as a browser takes it: white space folded."""

    def get_data(self, as_text: bool = False) -> Any:
        data = super().get_data(as_text=as_text)
        if as_text and self.mimetype == "text/html":
            return re.sub(r"\s*\n\s+| {2,}", " ", data)
        return data


def build_client(app: Flask) -> FlaskClient:
    """A client of an application, whose pages read with white space folded."""
    client = app.test_client()
    client.response_wrapper = type("AnswerOf", (Answer, app.response_class), {})
    return client


class WebCase(unittest.TestCase):
    """Gives a client, and posts with the page's own token."""

    def setUp(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self.folder = Path(self._folder.name)
        fill(self.folder)
        self.app = app_in(self.folder, TESTING=True)
        self.client = build_client(self.app)
        self._csrf_token = ""

    def tearDown(self) -> None:
        get_context(self.app).close()
        if not db.is_closed():
            db.close()
        self._folder.cleanup()

    def token(self, page: str = "/plan") -> dict[str, str]:
        """The hidden fields of a page's form: the token against forgery and the once token."""
        text = self.client.get(page).get_data(as_text=True)
        found = {"csrf_token": re.search(r'name="csrf_token" value="([^"]+)"', text)[1]}
        if once := re.search(r'name="once" value="([^"]+)"', text):
            found["once"] = once[1]
        return found

    def tokens(self) -> dict[str, str]:
        """Return the hidden fields of any form.

        The CSRF token is fetched once, and each form has a new token.
        """
        if not self._csrf_token:
            self._csrf_token = self.token("/jobs/")["csrf_token"]
        return {"csrf_token": self._csrf_token, "once": secrets.token_urlsafe(12)}

    def post(self, address: str, data: dict[str, Any], page: str = "") -> Any:
        """Post a form as the page would. Parameters: page, where the form's own tokens matter."""
        hidden = self.token(page) if page else self.tokens()
        return self.client.post(address, data={**hidden, **data})

    def keep(self, link: str = "joint=outside-corner&a.thickness=16+ga&length=380+mm") -> str:
        """Keep a draft; its address."""
        done = self.post("/procedures/draft", {"link": link})
        self.assertEqual(done.status_code, 303)
        return str(done.headers["Location"])

    def run_form(self, **more: Any) -> dict[str, Any]:
        """A run's form, good and whole."""
        made = run()
        told = {
            f"{part}.{key}": str(value)
            for part in ("set", "used", "measured")
            for key, value in made[part].items()
        }
        return {
            "when": "2026-03-04",
            "who": "R.T.",
            "front": "straw",
            "back": "silver",
            "outcome": "good",
            **told,
            **more,
        }
