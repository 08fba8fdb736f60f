"""Who is let in by digits, how often they can be guessed, and the lead's PIN."""

import json
import stat

from tests.store_case import StoreCase
from wisearc.core.errors import BadInput, UnknownName
from wisearc.services.devices.devices import FILE, Devices
from wisearc.services.people import people
from wisearc.store import people as hands
from wisearc.store.database import transaction
from wisearc.store.errors import Missing, NotAllowed


class Clock:
    def __init__(self) -> None:
        self.at = 1000.0

    def __call__(self) -> float:
        return self.at


class LetIn(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.clock = Clock()
        self.devices = Devices(self.folder, self.clock)

    def wrong(self) -> str:
        return f"{(int(self.devices.code().digits) + 1) % 10**6:06d}"

    def test_by_the_digits_once_and_known_by_its_secret_alone(self) -> None:
        digits = self.devices.code().digits
        secret = self.devices.let_in(f" {digits[:3]} {digits[3:]}", "bench  tablet")
        self.assertEqual(
            (
                self.devices.known(secret).name,
                self.devices.known(secret + "x"),
                self.devices.known(""),
            ),
            ("bench tablet", None, None),
        )
        with self.assertRaises(BadInput):
            self.devices.let_in(digits, "another")
        text = (self.folder / FILE).read_text()
        self.assertNotIn(secret, text)
        self.assertEqual(stat.S_IMODE((self.folder / FILE).stat().st_mode) & 0o077, 0)
        again = Devices(self.folder)
        self.assertEqual(again.known(secret).id, 1)
        again.put_out(1)
        self.assertIsNone(again.known(secret))
        with self.assertRaises(Missing):
            again.put_out(1)
        self.assertIsNone(Devices(self.folder).known(secret))

    def test_digits_run_out_after_five_minutes(self) -> None:
        digits = self.devices.code().digits
        self.clock.at += 299.9
        self.assertEqual(self.devices.code().digits, digits)
        self.clock.at += 0.1
        with self.assertRaisesRegex(BadInput, "have run out"):
            self.devices.let_in(digits, "x")

    def test_five_wrong_ones_spend_the_digits_ten_shut_the_door_for_ten_minutes(self) -> None:
        right = self.devices.code().digits
        for i in range(5):
            with self.assertRaisesRegex(
                BadInput, "worth nothing now" if i == 4 else "are not those"
            ):
                self.devices.let_in(f"{(int(right) + 1) % 10**6:06d}", "x")
        with self.assertRaises(BadInput):
            self.devices.let_in(right, "x")
        for _ in range(4):
            with self.assertRaises(BadInput):
                self.devices.let_in(self.wrong(), "x")
        with self.assertRaisesRegex(NotAllowed, "Nobody is let in for 10 min"):
            self.devices.let_in("000000", "x")
        with self.assertRaises(NotAllowed):
            self.devices.code()
        self.clock.at += 600.1
        self.assertTrue(self.devices.let_in(self.devices.code().digits, "x"))

    def test_a_hundred_devices_and_no_more(self) -> None:
        for _ in range(100):
            self.devices.let_in(self.devices.code().digits, "x" * 40)
        with self.assertRaisesRegex(NotAllowed, "100 devices are let in"):
            self.devices.let_in(self.devices.code().digits, "x")
        self.devices.put_out(1)
        self.assertTrue(self.devices.let_in(self.devices.code().digits, "x"))

    def test_the_day_it_was_last_seen_is_kept(self) -> None:
        secret = self.devices.let_in(self.devices.code().digits, "x", lambda: "2026-03-03T08:00")
        seen = [
            self.devices.known(secret, lambda at=at: at).seen_on
            for at in ("2026-03-04T08:00", "2026-03-04T17:00", "2026-03-05T08:00")
        ]
        self.assertEqual(seen, ["2026-03-04", "2026-03-04", "2026-03-05"])

    def test_what_is_no_digits_or_name_is_said_and_costs_nothing(self) -> None:
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
                with self.assertRaises(BadInput):
                    self.devices.let_in(typed, name)
        self.assertTrue(self.devices.let_in(digits, "x"))

    def test_a_file_that_cannot_be_read_lets_nobody_in(self) -> None:
        secret = self.devices.let_in(self.devices.code().digits, "x")
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
        people._wrong.clear()

    def test_entered_by_role_and_put_away(self) -> None:
        self.assertFalse(people.lead_needed())
        people.enter("R.T.", "", "welder")
        people.enter("K.S.", "Someone", "lead", "2468")
        self.assertEqual(
            [(p.initials, p.role, p.has_pin) for p in people.people()],
            [("K.S.", "lead", True), ("R.T.", "welder", False)],
        )
        self.assertTrue(people.lead_needed())
        for args, error in (
            (("r.t.", "", "welder"), BadInput),
            (("", "", "welder"), BadInput),
            (("x" * 9, "", "welder"), BadInput),
            (("M.O.", "", "boss"), UnknownName),
            (("M.O.", "", "lead"), BadInput),
            (("M.O.", "", "lead", "123"), BadInput),
            (("M.O.", "", "lead", "12a4"), BadInput),
            (("M.O.", "", "welder", "1234"), BadInput),
        ):
            with self.subTest(args), self.assertRaises(error):
                people.enter(*args)
        lead, welder = people.people()
        with self.assertRaises(NotAllowed):
            people.put_away(lead.id)
        people.put_away(welder.id)
        people.put_away(lead.id)
        self.assertEqual(people.people(), [])
        people.enter("R.T.", "", "viewer")

    def test_a_new_pin_takes_the_place_of_the_old(self) -> None:
        people.enter("K.S.", "", "lead", "2468")
        people.enter("R.T.", "", "welder")
        for initials in ("R.T.", "M.O."):
            with self.assertRaisesRegex(Missing, f"{initials} is no lead"):
                people.new_pin(initials, "1357")
        for pin in ("135", "1" * 13):
            with self.assertRaisesRegex(BadInput, "must be 4 to 12 digits"):
                people.new_pin("K.S.", pin)
        for old, pin in (("2468", "1357"), ("1357", "1" * 12)):
            people.new_pin("K.S.", pin)
            with self.assertRaises(BadInput):
                people.check_pin(old)
            self.assertEqual(people.check_pin(pin).initials, "K.S.")

    def test_two_hundred_people_and_no_more(self) -> None:
        with transaction():
            for i in range(199):
                hands.add(f"A{i}", "", "welder", "")
        people.enter("B", "", "welder")
        with self.assertRaisesRegex(BadInput, "are 200, the most there can be"):
            people.enter("C", "", "welder")

    def test_the_pin_is_kept_as_its_hash_and_tried_five_times_a_minute(self) -> None:
        people.enter("K.S.", "", "lead", "2468")
        self.store.close()
        self.assertNotIn(b"2468", b"".join(p.read_bytes() for p in self.folder.glob("*sqlite3*")))
        clock = Clock()
        self.assertEqual(people.check_pin(" 2468 ", clock).initials, "K.S.")
        for _ in range(5):
            with self.assertRaises(BadInput):
                people.check_pin("2469", clock)
        with self.assertRaises(NotAllowed):
            people.check_pin("2468", clock)
        clock.at += 60.1
        self.assertEqual(people.check_pin("2468", clock).initials, "K.S.")
