"""Every act that is the lead's asks for the PIN, and again once it is over; a viewer changes
nothing.
"""

import time
import unittest
from unittest import mock

from tests.web.case import WebCase
from wisearc.services.people import people
from wisearc.web.people import hands

PIN = "246824"


class Permissions(WebCase):
    def setUp(self) -> None:
        super().setUp()
        people._wrong.clear()
        self.addCleanup(people._wrong.clear)
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
        self.assertGreater(len(hands.LEADS), 15)
        for endpoint in sorted(hands.LEADS):
            with self.subTest(act=endpoint):
                self.assertTrue(self.asks(endpoint))
        self.assertTrue(self.asks("shop.name", name="Ours", **{hands.PIN: "000000"}))

    def test_what_a_pin_opens_is_shut_again(self) -> None:
        """A quarter of an hour, then it is asked for anew."""
        self.assertEqual(hands.UNLOCKED_S, 900)
        now = time.time()
        with mock.patch.object(hands.time, "time", return_value=now):
            self.assertFalse(self.asks("shop.name", name="Ours", **{hands.PIN: PIN}))
        for at, shut in ((now + 899, False), (now + 901, True)):
            with mock.patch.object(hands.time, "time", return_value=at):
                for endpoint in ("shop.name", "shop.schools"):
                    with self.subTest(at=at, act=endpoint):
                        self.assertEqual(self.asks(endpoint, name="Ours"), shut)

    def test_what_is_everyone_s_asks_nothing(self) -> None:
        done = self.post("/keep/draft", {"link": "joint=butt&length=100+mm"})
        self.assertEqual(done.status_code, 303)

    def test_a_viewer_changes_nothing(self) -> None:
        self.client.set_cookie("who", "V.W.")
        rules = [r for r in self.app.url_map.iter_rules() if "POST" in (r.methods or ())]
        own = [r for r in rules if r.endpoint not in hands.VIEWERS and not r.arguments]
        self.assertGreater(len(own), 20)
        for rule in own:
            with self.subTest(act=rule.endpoint):
                done = self.post(rule.rule, {})
                self.assertEqual(done.status_code, 403)
                self.assertIn("looks in as a viewer", done.get_data(as_text=True))


if __name__ == "__main__":
    unittest.main()
