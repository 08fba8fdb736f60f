"""Signatures of a record on its page; key and required roles in Shop; retired records."""

import io
import re

from tests.web.case import WebCase
from wisearc.services.people import people
from wisearc.store.database import db

PIN = "246824"


class Signing(WebCase):
    def setUp(self) -> None:
        super().setUp()
        db.connect(reuse_if_open=True)
        people.enter("K.S.", "Kim", "lead", PIN)
        people.enter("R.T.", "", "welder", "135713")
        db.close()
        self.here = self.keep()

    def text(self, path: str = "") -> str:
        return str(self.client.get(self.here + path).get_data(as_text=True))

    def sign(self, **more: str) -> object:
        seen = re.search(r'name="seen" value="([0-9a-f]{32})"', self.text())[1]
        form = {"role": "author", "who": "K.S.", "pin": PIN, "seen": seen, **more}
        return self.post(f"{self.here}/sign", form)

    def test_signed_on_the_page(self) -> None:
        self.assertIn("Not signed yet", self.text())
        self.assertEqual(self.sign().status_code, 303)
        text = self.text()
        self.assertIn("The content matches its signature.", text)
        self.assertRegex(text, r"Author</span> <b>K\.S\.</b>")
        # A signed draft is not edited, and its signature can be withdrawn.
        self.assertNotIn("Edit draft", text)
        done = self.post(f"{self.here}/withdraw", {"position": "0", "pin": PIN})
        self.assertEqual(done.status_code, 303)
        self.assertIn("Edit draft", self.text())

    def test_refused_signature_has_its_error_at_the_form(self) -> None:
        for more, code, words in (
            ({"pin": "000000"}, 422, "Not signed: PIN: Wrong PIN."),
            ({"who": "X.Y."}, 422, "must be a welder or lead of this shop"),
            ({"role": "checker"}, 409, "has no good run yet"),
            ({"seen": "0" * 32}, 409, "changed after you opened it"),
        ):
            with self.subTest(more):
                done = self.sign(**more)
                text = done.get_data(as_text=True)
                self.assertEqual(done.status_code, code)
                self.assertIn(words.removeprefix("Not signed: PIN: "), text)
                self.assertRegex(text, r'<details class="sign-form" open>')
                # The person and the role are still selected.
                role = {"role": "author", **more}["role"]
                if role == "author":
                    self.assertIn('<option value="author" selected>', text)

    def test_required_roles_make_a_revision_wait(self) -> None:
        done = self.post("/shop/signatures/roles", {"role": "checker", "lead-pin": PIN})
        self.assertEqual(done.status_code, 303)
        self.assertEqual(self.post(f"{self.here}/runs", self.run_form()).status_code, 303)
        text = self.text()
        self.assertIn("waiting for signatures", text)
        self.assertRegex(text, "Waiting for signatures:</b> checker")
        self.assertIn("P-0001 A", self.client.get("/procedures/?status=waiting").text)
        self.assertEqual(self.sign(role="checker").status_code, 303)
        self.assertIn("verified", self.text())

    def test_only_a_lead_changes_roles_and_key(self) -> None:
        for path in ("roles", "export", "import", "replace"):
            with self.subTest(path):
                done = self.post(f"/shop/signatures/{path}", {"role": "checker"})
                self.assertEqual(done.status_code, 403)
        self.assertEqual(self.post("/shop/people/pin", {"initials": "R.T."}).status_code, 403)

    def test_key_goes_out_and_in(self) -> None:
        self.sign()
        lead = {"lead-pin": PIN}
        short = self.post("/shop/signatures/export", {"passphrase": "short", **lead})
        self.assertEqual(short.status_code, 422)
        self.assertIn("Passphrase must have 12 to 200 characters", short.get_data(as_text=True))
        sent = self.post("/shop/signatures/export", {"passphrase": "a dozen grey herons"})
        self.assertIn("attachment", sent.headers["Content-Disposition"])
        key = self.folder / "signing-key.pem"
        key.unlink()
        text = self.client.get("/shop/signatures").get_data(as_text=True)
        self.assertIn("is not on this computer, so nobody can sign", text)
        refused = self.sign(who="R.T.", pin="135713")
        self.assertIn("is not on this computer", refused.get_data(as_text=True))
        for passphrase, code in (("a dozen grey geese", 422), ("a dozen grey herons", 303)):
            form = {"passphrase": passphrase, "file": (io.BytesIO(sent.data), "key.pem")}
            done = self.client.post("/shop/signatures/import", data={**self.tokens(), **form})
            self.assertEqual(done.status_code, code)
        self.assertTrue(key.exists())
        self.assertEqual(self.sign(who="R.T.", pin="135713").status_code, 303)

    def test_lost_key_is_replaced(self) -> None:
        self.sign()
        (self.folder / "signing-key.pem").unlink()
        done = self.post("/shop/signatures/replace", {"lead-pin": PIN})
        self.assertEqual(done.status_code, 303)
        self.assertIn("replaced", self.client.get("/shop/signatures").get_data(as_text=True))
        self.assertIn("The content matches its signature.", self.text())

    def test_pin_of_a_person_is_set(self) -> None:
        form = {"initials": "R.T.", "pin": "987654", "lead-pin": PIN}
        self.assertEqual(self.post("/shop/people/pin", form).status_code, 303)
        self.assertEqual(self.sign(who="R.T.", pin="987654").status_code, 303)
        self.assertEqual(self.post("/shop/people/pin", {"initials": "R.T."}).status_code, 422)

    def test_retired_and_restored(self) -> None:
        self.post(f"{self.here}/runs", self.run_form())
        changes = self.text("/changes")
        self.assertIn("1 revision and 1 run.", changes)
        self.assertEqual(self.post(f"{self.here}/retire", {}).status_code, 303)
        self.assertIn("This procedure was retired on", self.text())
        self.assertNotIn(self.here, self.client.get("/procedures/").get_data(as_text=True))
        self.assertIn("was retired.", self.text("/changes"))
        self.assertEqual(self.post(f"{self.here}/back", {}).status_code, 303)
        self.assertIn(self.here, self.client.get("/procedures/").get_data(as_text=True))

    def test_timeline_has_every_event(self) -> None:
        self.sign()
        self.post(f"{self.here}/runs", self.run_form())
        self.post(f"{self.here}/runs", self.run_form(outcome="not-good"))
        text = self.text("/changes")
        for words in (
            "P-0001 was created.",
            "Revision A was saved.",
            "Revision A was signed as author.",
            "Revision A was verified.",
            "with revision A: good.",
            "with revision A: not good.",
        ):
            self.assertIn(words, text)
        run = re.search(r'href="(/procedures/P-0001/A/runs/\d+)"', text)[1]
        self.assertRegex(self.client.get(run).headers["Location"], r"/A/runs#run-\d+$")

    def test_parts_of_a_record_without_content(self) -> None:
        self.assertIn("No photographs yet", self.text("/photographs"))
        self.assertIn("No job uses this revision yet", self.text("/jobs"))
        self.assertIn("No runs yet", self.text("/runs"))
