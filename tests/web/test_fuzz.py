"""No input causes an internal error, and imported records have every view.

`benchmarks/attack.py` does the same with a hundred thousand inputs, and measures each.
"""

import json
import random
import re
import unittest
from typing import Any

from benchmarks.fuzz import Fuzz, Sent, any_joint
from tests.samples import COPE, CORNER, TEE, run, typed
from tests.web.case import WebCase
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.procedures import book, procedure_files, procedures
from wisearc.services.runs import runs
from wisearc.store import queries
from wisearc.store.database import db

MANY = 400
VIEWS = ("", "/print", "/drawings", ".json")
# Allowed answers to nonsense: a page, a redirect, a refusal; no internal error.
ANSWERS = {200, 302, 303, 308, 400, 404, 405, 409, 413, 414, 422}


class Nonsense(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.app.config["PROPAGATE_EXCEPTIONS"] = False
        self.app.testing = False
        for joint in (CORNER, COPE, TEE):
            procedures.keep_draft(make_joint(joint), ASSUMED)
        runs.record_run("P-0001", "A", typed(run(notes="Ä")))
        self.files = [
            json.loads(book.procedure_text(queries.get_revision(f"P-000{i}"))) for i in (1, 2, 3)
        ]
        db.close()
        self.forms = self.token("/procedures/P-0002/A/runs")

    def send(self, sent: Sent) -> Any:
        self.client.set_cookie("habit", sent.units)
        form = {"csrf_token": self.forms["csrf_token"], **sent.form}
        return self.client.open(
            sent.path,
            method=sent.method,
            data=form if sent.method == "POST" else None,
            headers=sent.headers,
        )

    def test_nonsense(self) -> None:
        source = Fuzz(11, self.files)
        with self.assertNoLogs(self.app.logger, "ERROR"):
            for i in range(MANY):
                sent = source.one()
                with self.send(sent) as done:
                    with self.subTest(i=i, path=sent.path[:200], form=str(sent.form)[:200]):
                        self.assertIn(done.status_code, ANSWERS)
                    if sent.path == "/procedures/read" and done.status_code == 303:
                        self.see_every_face(done.headers["Location"])

    def see_every_face(self, address: str) -> None:
        here = re.sub(r"[?#].*", "", address)
        for face in VIEWS:
            with self.client.get(here + face) as shown, self.subTest(here=here, face=face):
                self.assertEqual(shown.status_code, 200)


class OutAndIn(WebCase):
    def test_whatever_was_written_is_taken_back(self) -> None:
        r, done = random.Random(3), 0
        while done < 40:
            try:
                joint = make_joint(any_joint(r))
            except InputError:
                continue
            done += 1
            text = book.procedure_text(procedures.keep_draft(joint, ASSUMED))
            with self.subTest(text=text[:400]):
                self.assertEqual(procedure_files.take_procedure_text(text)[1], "known")
                data = {**json.loads(text), "title": "Taken"}
                kept, _ = procedure_files.import_procedure(data)
                here = f"/procedures/{kept.procedure.label}/{kept.letter}"
                for face in VIEWS if done % 10 == 0 else ():
                    self.assertEqual(self.client.get(here + face).status_code, 200)


if __name__ == "__main__":
    unittest.main()
