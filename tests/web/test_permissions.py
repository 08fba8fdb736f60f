"""Every lead action asks for the PIN, and again after its expiry; a viewer changes nothing."""

import re
import time
import unittest
from unittest import mock

from argon2 import PasswordHasher

from tests.web.case import WebCase
from wisearc.services.maintenance import maintenance
from wisearc.services.people import people
from wisearc.store import people as pins
from wisearc.store.errors import DiskFull
from wisearc.store.opening import Store
from wisearc.web.context import get_context
from wisearc.web.people import access

PIN = "246824"


class Permissions(WebCase):
    def setUp(self) -> None:
        super().setUp()
        people.enter("L.D.", "Lead", "lead", PIN)
        people.enter("V.W.", "Viewer", "viewer")

    def address(self, endpoint: str) -> str:
        """The address of an act, with any number and letter in it."""
        adapter = self.app.url_map.bind("localhost")
        rule = next(r for r in self.app.url_map.iter_rules(endpoint) if "POST" in (r.methods or ()))
        told = {
            name: "1" if "int" in str(rule._converters[name]) else "x" for name in rule.arguments
        }
        return str(adapter.build(endpoint, told, method="POST"))

    def asks(self, endpoint: str, **form: str) -> bool:
        """Whether an act is answered by the page that asks for the PIN."""
        done = self.post(self.address(endpoint), form)
        return done.status_code == 403 and 'name="lead-pin"' in done.get_data(as_text=True)

    def test_each_act_of_the_lead_asks(self) -> None:
        self.assertGreater(len(access.LEADS), 15)
        for endpoint in sorted(access.LEADS):
            with self.subTest(act=endpoint):
                self.assertTrue(self.asks(endpoint))
        self.assertTrue(self.asks("shop.name", name="Ours", **{access.PIN: "000000"}))

    def test_every_other_change_of_the_shop_is_named_here(self) -> None:
        """A new form of Shop asks for the lead, unless it is one of these."""
        open_to_all = {
            "shop.count",
            "shop.backup",
            "shop.check",
            "shop.export",
            "shop.stop",
            "shop.pressure",
        }
        posts = {
            rule.endpoint
            for rule in self.app.url_map.iter_rules()
            if rule.endpoint.startswith("shop.") and "POST" in (rule.methods or ())
        }
        self.assertEqual(posts - access.LEADS, open_to_all)

    def test_pin_access_expires(self) -> None:
        """After a quarter of an hour the PIN is required again."""
        sessions = get_context(self.app).lead_sessions
        now = time.monotonic()
        with mock.patch.object(sessions, "_clock", return_value=now):
            self.assertFalse(self.asks("shop.name", name="Ours", **{access.PIN: PIN}))
        for at, shut in ((now + 899, False), (now + 901, True)):
            with mock.patch.object(sessions, "_clock", return_value=at):
                for endpoint in ("shop.name", "shop.choose_approach"):
                    with self.subTest(at=at, act=endpoint):
                        self.assertEqual(self.asks(endpoint, name="Ours"), shut)

    def test_old_cookie_is_invalid_after_locking(self) -> None:
        self.assertFalse(self.asks("shop.name", name="Ours", **{access.PIN: PIN}))
        name = self.app.config["SESSION_COOKIE_NAME"]
        old = self.client.get_cookie(name).value
        self.assertFalse(self.asks("shop.name", name="Ours"))
        self.post("/shop/people/lock", {})
        self.client.set_cookie(name, old)
        self.assertTrue(self.asks("shop.name", name="Ours"))

    def test_changed_system_clock(self) -> None:
        """Forms still work.

        The clock neither opens nor extends a lead session.
        """
        page = self.client.get("/shop/people/").get_data(as_text=True)
        token = re.search(r'name="csrf_token" value="([^"]+)"', page)[1]
        real = time.time
        for shift in (-3600, -86400 * 400, 3600, 86400 * 400):
            with (
                self.subTest(shift),
                mock.patch("time.time", lambda shift=shift: real() + shift),
            ):
                done = self.client.post(
                    "/procedures/draft",
                    data={"csrf_token": token, "link": "joint=butt&length=100+mm"},
                )
                self.assertEqual(done.status_code, 303)
                self.assertTrue(self.asks("shop.name", name="Ours"))

    def test_only_a_lead_downloads_backups(self) -> None:
        place = self.folder / "backups"
        place.mkdir(exist_ok=True)
        (place / "book-1.zip").write_bytes(b"PK whole")
        asked = self.client.get("/shop/copies/book-1.zip")
        self.assertEqual(asked.status_code, 403)
        self.assertIn('name="lead-pin"', asked.get_data(as_text=True))
        done = self.post("/shop/copies/book-1.zip", {access.PIN: PIN}, page="/shop/people/")
        self.assertEqual((done.status_code, done.location), (303, "/shop/copies/book-1.zip"))
        got = self.client.get(done.location)
        self.assertEqual((got.data, got.headers["Cache-Control"]), (b"PK whole", "no-store"))

    def test_restore_needs_a_new_pin(self) -> None:
        self.assertFalse(self.asks("shop.name", name="Ours", **{access.PIN: PIN}))
        copy = maintenance.create_backup(self.folder, self.folder / "elsewhere")
        maintenance.restore(self.folder, copy)
        Store(self.folder).close()
        for more in ({}, {access.PIN: PIN}):
            for endpoint in sorted(access.LEADS):
                done = self.post(self.address(endpoint), more, page="/shop/people/")
                self.assertEqual(done.status_code, 403, endpoint)
                self.assertIn("--new-pin", done.get_data(as_text=True), endpoint)
        for page in ("/", "/plan", "/procedures/", "/weld/", "/shop/people/"):
            self.assertEqual(self.client.get(page).status_code, 200, page)
        self.assertEqual(
            self.post("/procedures/draft", {"link": "joint=butt&length=100+mm"}).status_code, 303
        )
        people.set_pin("L.D.", "135713")
        self.assertTrue(self.asks("shop.name", name="Ours", **{access.PIN: PIN}))
        self.assertFalse(self.asks("shop.name", name="Ours", **{access.PIN: "135713"}))

    def test_short_pin_is_replaced_with_one_form(self) -> None:
        pins.open_pin_file().set_hash("L.D.", PasswordHasher().hash("1234"))
        asked = self.post("/shop/name", {"name": "Ours", access.PIN: "1234"}, page="/shop/people/")
        text = asked.get_data(as_text=True)
        self.assertEqual(asked.status_code, 403)
        self.assertIn(f'name="{access.NEW_PIN}"', text)
        self.assertIn("has fewer than 6 digits", text)
        self.assertIn('name="name" value="Ours"', text)
        sent = {"name": "Ours", access.PIN: "1234", access.NEW_PIN: "135713"}
        self.assertEqual(self.post("/shop/name", sent, page="/shop/people/").status_code, 303)
        self.post("/shop/people/lock", {}, page="/shop/people/")
        self.assertFalse(self.asks("shop.name", name="Ours", **{access.PIN: "135713"}))

    def test_unreadable_library_refuses_lead_actions(self) -> None:
        token = self.tokens()["csrf_token"]
        with mock.patch.object(pins, "list_people", side_effect=DiskFull):
            for endpoint in sorted(access.LEADS):
                done = self.client.post(self.address(endpoint), data={"csrf_token": token})
                self.assertEqual(done.status_code, 507, endpoint)
        self.client.set_cookie("who", "V.W.")
        with mock.patch.object(pins, "list_people", side_effect=DiskFull):
            done = self.client.post(
                "/procedures/draft", data={"csrf_token": token, "link": "joint=tee"}
            )
        self.assertEqual(done.status_code, 507)

    def test_public_actions_ask_for_no_pin(self) -> None:
        done = self.post("/procedures/draft", {"link": "joint=butt&length=100+mm"})
        self.assertEqual(done.status_code, 303)

    def test_a_viewer_changes_nothing(self) -> None:
        self.client.set_cookie("who", "V.W.")
        rules = [r for r in self.app.url_map.iter_rules() if "POST" in (r.methods or ())]
        own = [r for r in rules if r.endpoint not in access.VIEWERS and not r.arguments]
        self.assertGreater(len(own), 20)
        for rule in own:
            with self.subTest(act=rule.endpoint):
                done = self.post(rule.rule, {})
                self.assertEqual(done.status_code, 403)
                self.assertIn("has view-only access", done.get_data(as_text=True))


if __name__ == "__main__":
    unittest.main()
