"""Pairing by a code, limits on guesses, and the lead PIN."""

import json
import stat
from unittest import mock

from argon2 import PasswordHasher

from tests.store_case import StoreCase
from wisearc.core.errors import InputError, UnknownName
from wisearc.services.devices.devices import FILE, Devices
from wisearc.services.people import people
from wisearc.services.people.attempts import AttemptLimiter
from wisearc.services.people.lead_sessions import LeadSessions
from wisearc.store import people as stored_people
from wisearc.store.database import open_transaction
from wisearc.store.errors import Broken, Missing, NotAllowed
from wisearc.store.pins import FILE as FILE_OF_PINS


class Clock:
    def __init__(self) -> None:
        self.at = 1000.0

    def __call__(self) -> float:
        return self.at


class PairedDevices(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.clock = Clock()
        self.devices = Devices(self.folder, self.clock)

    def wrong(self) -> str:
        return f"{(int(self.devices.code().digits) + 1) % 10**6:06d}"

    def test_by_the_digits_once_and_known_by_its_secret_alone(self) -> None:
        digits = self.devices.code().digits
        secret = self.devices.pair(f" {digits[:3]} {digits[3:]}", "bench  tablet", "a")
        self.assertEqual(
            (
                self.devices.known(secret).name,
                self.devices.known(secret + "x"),
                self.devices.known(""),
            ),
            ("bench tablet", None, None),
        )
        with self.assertRaises(InputError):
            self.devices.pair(digits, "another", "a")
        text = (self.folder / FILE).read_text()
        self.assertNotIn(secret, text)
        self.assertEqual(stat.S_IMODE((self.folder / FILE).stat().st_mode) & 0o077, 0)
        again = Devices(self.folder)
        self.assertEqual(again.known(secret).id, 1)
        again.revoke(1)
        self.assertIsNone(again.known(secret))
        with self.assertRaises(Missing):
            again.revoke(1)
        self.assertIsNone(Devices(self.folder).known(secret))

    def test_digits_run_out_after_five_minutes(self) -> None:
        digits = self.devices.code().digits
        self.clock.at += 299.9
        self.assertEqual(self.devices.code().digits, digits)
        self.clock.at += 0.1
        with self.assertRaisesRegex(InputError, "have expired"):
            self.devices.pair(digits, "x", "a")

    def test_only_the_guessing_client_waits(self) -> None:
        for _ in range(5):
            with self.assertRaisesRegex(InputError, "do not match the code"):
                self.devices.pair(self.wrong(), "x", "a guesser")
        right = self.devices.code().digits
        for waits in ("1 minute", "2 min", "4 min"):
            with self.assertRaisesRegex(NotAllowed, f"Wait {waits}, then"):
                self.devices.pair(right, "x", "a guesser")
            self.clock.at += 60.0 * (1 if waits == "1 minute" else int(waits[0]))
            right = self.devices.code().digits
            with self.assertRaises(InputError):
                self.devices.pair(self.wrong(), "x", "a guesser")
        # ten wrong ones from there do not shut the door for others
        self.assertTrue(self.devices.pair(self.devices.code().digits, "x", "another"))

    def test_fifty_wrong_codes_cancel_the_code(
        self,
    ) -> None:
        right = self.devices.code().digits
        for i in range(50):
            self.assertEqual(self.devices.code().digits, right)
            with self.assertRaises(InputError):
                self.devices.pair(self.wrong(), "x", f"address {i}")
        with self.assertRaisesRegex(InputError, "have expired"):
            self.devices.pair(right, "x", "another")
        self.assertTrue(self.devices.pair(self.devices.code().digits, "x", "another"))

    def test_repeated_correct_code_adds_one_device(self) -> None:
        digits = self.devices.code().digits
        first = self.devices.pair(digits, "tablet", "a")
        for _ in range(6):
            self.assertEqual(self.devices.pair(digits, "tablet", "a"), first)
            with self.assertRaisesRegex(InputError, "are already used"):
                self.devices.pair(digits, "other", "b")
        self.assertEqual(len(self.devices.all()), 1)
        self.assertTrue(self.devices.pair(self.devices.code().digits, "other", "b"))
        # after half a minute they are digits like others
        digits = self.devices.code().digits
        self.devices.pair(digits, "third", "c")
        self.clock.at += 30.1
        with self.assertRaisesRegex(InputError, "have expired"):
            self.devices.pair(digits, "third", "c")

    def test_a_hundred_devices_and_no_more(self) -> None:
        for _ in range(100):
            self.devices.pair(self.devices.code().digits, "x" * 40, "a")
        with self.assertRaisesRegex(NotAllowed, "100 devices are paired"):
            self.devices.pair(self.devices.code().digits, "x", "a")
        self.devices.revoke(1)
        self.assertTrue(self.devices.pair(self.devices.code().digits, "x", "a"))

    def test_the_day_it_was_last_seen_is_kept(self) -> None:
        secret = self.devices.pair(self.devices.code().digits, "x", "a", lambda: "2026-03-03T08:00")
        seen = [
            self.devices.known(secret, lambda at=at: at).seen_on
            for at in ("2026-03-04T08:00", "2026-03-04T17:00", "2026-03-05T08:00")
        ]
        self.assertEqual(seen, ["2026-03-04", "2026-03-04", "2026-03-05"])

    def test_invalid_code_or_name_is_reported_without_penalty(self) -> None:
        digits = self.devices.code().digits
        for typed, name in (
            ("12345", "x"),
            ("", "x"),
            ("abcdef", "x"),
            (digits, " "),
            (digits, "x" * 41),
            (digits, "a\x00b"),
        ):
            for _ in range(3):
                with self.assertRaises(InputError):
                    self.devices.pair(typed, name, "a")
        self.assertTrue(self.devices.pair(digits, "x", "a"))

    def test_a_file_that_cannot_be_read_lets_nobody_in(self) -> None:
        secret = self.devices.pair(self.devices.code().digits, "x", "a")
        self.devices.switch(True)
        self.assertTrue(Devices(self.folder).on)
        for text in (
            "",
            "[]",
            '{"on": true}',
            json.dumps({"on": True, "last": 1, "devices": [{"id": 1}]}),
        ):
            (self.folder / FILE).write_text(text)
            self.assertEqual(
                (Devices(self.folder).known(secret), Devices(self.folder).on), (None, False)
            )


class People(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.clock = Clock()
        self.limiter = AttemptLimiter(self.clock)

    def check(self, pin: str, who: str = "here", new: str = "") -> str:
        return people.check_pin(pin, who, self.limiter, new).initials

    def test_people_are_entered_by_role_and_archived(self) -> None:
        self.assertFalse(people.needs_lead())
        people.enter("R.T.", "", "welder")
        people.enter("K.S.", "Someone", "lead", "246824")
        self.assertEqual(
            [(p.initials, p.role, p.has_pin) for p in people.list_people()],
            [("K.S.", "lead", True), ("R.T.", "welder", False)],
        )
        self.assertTrue(people.needs_lead())
        for args, error in (
            (("r.t.", "", "welder"), InputError),
            (("", "", "welder"), InputError),
            (("x" * 9, "", "welder"), InputError),
            (("M.O.", "", "boss"), UnknownName),
            (("M.O.", "", "lead"), InputError),
            (("M.O.", "", "lead", "12345"), InputError),
            (("M.O.", "", "lead", "12a456"), InputError),
            (("M.O.", "", "viewer", "123456"), InputError),
        ):
            with self.subTest(args), self.assertRaises(error):
                people.enter(*args)
        lead, welder = people.list_people()
        with self.assertRaises(NotAllowed):
            people.archive_person(lead.id)
        people.archive_person(welder.id)
        people.archive_person(lead.id)
        self.assertEqual(people.list_people(), [])
        self.assertEqual(stored_people.open_pin_file().get_hash("K.S."), "")
        people.enter("R.T.", "", "viewer")

    def test_invisible_characters_in_initials(self) -> None:
        for odd in (
            "R\u200bT",
            "\u202eRT",
            "R\u2066T",
            "R\ufeffT",
            "R\u00adT",
            "\u200f",
            "R\u180eT",
        ):
            with self.subTest(ascii(odd)), self.assertRaisesRegex(InputError, "initials"):
                people.enter(odd, "", "welder")
        for initials in ("Ä.Ö.", "R-T", "R&T", "Ж.П.", "R T", "王"):
            people.enter(initials, "", "welder")

    def test_a_new_pin_takes_the_place_of_the_old(self) -> None:
        people.enter("K.S.", "", "lead", "246824")
        people.enter("R.T.", "", "viewer")
        for initials in ("R.T.", "M.O."):
            with self.assertRaisesRegex(Missing, f"{initials} is not a welder or lead"):
                people.set_pin(initials, "135713")
        for pin in ("13571", "1" * 13):
            with self.assertRaisesRegex(InputError, "A PIN has 6 to 12 digits"):
                people.set_pin("K.S.", pin)
        for old, pin in (("246824", "135713"), ("135713", "1" * 12)):
            people.set_pin("K.S.", pin)
            with self.assertRaises(InputError):
                self.check(old)
            self.assertEqual(self.check(pin), "K.S.")

    def test_two_hundred_people_and_no_more(self) -> None:
        with open_transaction():
            for i in range(199):
                stored_people.add(f"A{i}", "", "welder")
        people.enter("B", "", "welder")
        with self.assertRaisesRegex(InputError, "are 200, which is the maximum"):
            people.enter("C", "", "welder")

    def test_pin_hash_is_outside_the_database(self) -> None:
        people.enter("K.S.", "", "lead", "246824")
        self.store.close()
        hashed = stored_people.open_pin_file().get_hash("K.S.")
        self.assertTrue(hashed.startswith("$argon2id$"))
        for path in self.folder.glob("*sqlite3*"):
            self.assertFalse({b"246824", hashed.encode()} & set(path.read_bytes().split(b'"')))
            self.assertNotIn(b"argon2", path.read_bytes())
        kept = (self.folder / FILE_OF_PINS).read_text()
        self.assertNotIn("246824", kept)
        self.assertEqual(stat.S_IMODE((self.folder / FILE_OF_PINS).stat().st_mode) & 0o077, 0)

    def test_wait_after_five_wrong_pins(self) -> None:
        people.enter("K.S.", "", "lead", "246824")
        self.assertEqual(self.check(" 246824 "), "K.S.")
        for _ in range(5):
            with self.assertRaises(InputError):
                self.check("246925")
        for wait, passed in (("1 minute", 60.1), ("2 min", 120.1)):
            with self.assertRaisesRegex(NotAllowed, f"Try again in {wait}"):
                self.check("246824")
            # another device is not held up
            self.assertEqual(self.check("246824", "device 2"), "K.S.")
            self.clock.at += passed
            if wait == "1 minute":
                with self.assertRaises(InputError):
                    self.check("246925")
        self.assertEqual(self.check("246824"), "K.S.")
        with self.assertRaises(InputError):
            self.check("246925")
        self.assertEqual(self.check("246824"), "K.S.")

    def test_maximum_wait_and_reset(self) -> None:
        for _ in range(30):
            self.limiter.record_failure("x")
        self.assertEqual(self.limiter.remaining_wait_s("x"), 3600.0)
        self.clock.at += 6 * 3600.0
        self.limiter.record_failure("x")
        self.assertEqual(self.limiter.remaining_wait_s("x"), 3600.0)
        self.clock.at += 6 * 3600.0 + 1
        self.limiter.record_failure("x")
        self.assertEqual(self.limiter.remaining_wait_s("x"), 0.0)

    def test_short_pin_sets_a_longer_pin(self) -> None:
        people.enter("K.S.", "", "lead", "246824")
        stored_people.open_pin_file().set_hash("K.S.", PasswordHasher().hash("2468"))
        with self.assertRaisesRegex(people.ShortPin, "has fewer than 6 digits"):
            self.check("2468")
        with self.assertRaisesRegex(InputError, "A PIN has 6 to 12 digits"):
            self.check("2468", new="13579")
        self.assertEqual(self.check("2468", new="135790"), "K.S.")
        with self.assertRaises(InputError):
            self.check("2468", new="135791")
        self.assertEqual(self.check("135790"), "K.S.")

    def test_unreadable_files_grant_no_access(self) -> None:
        people.enter("K.S.", "", "lead", "246824")
        for text in ("", "[]", '{"pins": 1}', "\ufeff"):
            (self.folder / FILE_OF_PINS).write_text(text)
            self.assertTrue(people.needs_lead())
            with self.assertRaises(InputError):
                self.check("246824")
        with mock.patch.object(stored_people, "list_people", side_effect=Broken("x")):
            for ask in (people.list_people, people.needs_lead, lambda: people.find_person("K.S.")):
                with self.assertRaises(Broken):
                    ask()

    def test_end_of_a_lead_session(self) -> None:
        sessions = LeadSessions(self.clock)
        key = sessions.open("one")
        self.assertTrue(sessions.is_open(key, "one"))
        self.assertFalse(sessions.is_open(key, "two") or sessions.is_open("", "one"))
        self.clock.at += 899.9
        self.assertTrue(sessions.is_open(key, "one"))
        self.clock.at += 0.2
        self.assertFalse(sessions.is_open(key, "one"))
        key = sessions.open("one")
        sessions.close(key)
        self.assertFalse(sessions.is_open(key, "one"))
