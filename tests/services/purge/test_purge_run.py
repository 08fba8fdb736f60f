"""A purge in progress.

Its clock and phases, a meter that reads, disconnects, stalls or sends nonsense, and the record of
the run.
"""

from __future__ import annotations

import json
import socket
import threading
import time
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from tests.samples import COPE, run, typed
from tests.store_case import StoreCase
from tests.untraced import Untraced
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.physics.purge import make_purging
from wisearc.core.shop.shop import ASSUMED
from wisearc.presenters.runs import run_row
from wisearc.services.procedures import book, procedures
from wisearc.services.purge import oxygen, purge_run, purge_status
from wisearc.services.purge.oxygen import Listener, Listeners, readings_csv
from wisearc.services.purge.purge_status import Fits
from wisearc.services.runs import runs
from wisearc.services.set_up.checklists import format_subject
from wisearc.store import queries
from wisearc.store.errors import NotAllowed
from wisearc.store.opening import Store

ASK = {
    "shape": "told",
    # With 0.15 L of hose: 1 L.
    "volume_l": 0.85,
    "flow_l_min": 6.0,
    "weld_l_min": 3.0,
    "vent_mm": 4.4,
    "target_ppm": 100.0,
}


class Speaks:
    """A port that sends given lines to every client."""

    def __init__(self, *lines: bytes, stays: bool = True) -> None:
        self._socket = socket.create_server(("127.0.0.1", 0))
        self.port = self._socket.getsockname()[1]
        self.lines, self._stays, self.callers = list(lines), stays, 0
        self._open: list[socket.socket] = []
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        while True:
            try:
                caller, _ = self._socket.accept()
            except OSError:
                return
            self.callers += 1
            for line in self.lines:
                caller.sendall(line)
            if self._stays:
                self._open.append(caller)
            else:
                caller.close()

    def send(self, line: bytes) -> None:
        for caller in self._open:
            caller.sendall(line)

    def close(self) -> None:
        self._socket.close()
        for caller in self._open:
            caller.close()


def reading(at: float, ppm: float) -> bytes:
    return (json.dumps({"time_s": at, "ppm": ppm}) + "\n").encode()


def within(true: Callable[[], bool], wait_s: float = 60.0) -> bool:
    until = time.monotonic() + wait_s
    while time.monotonic() < until:
        if true():
            return True
        time.sleep(0.02)
    return False


class Meters(Untraced):
    def listen(
        self, *lines: bytes, stays: bool = True, file: Path | None = None
    ) -> tuple[Speaks, Listener]:
        speaks = Speaks(*lines, stays=stays)
        self.addCleanup(speaks.close)
        listener = Listener(speaks.port, time.time(), file)
        self.addCleanup(listener.close)
        return speaks, listener

    def unanswered(self) -> Listener:
        """Return a listener without an answering port, which no longer connects."""
        with socket.create_server(("127.0.0.1", 0)) as taken:
            port = taken.getsockname()[1]
        listener = Listener(port, time.time(), None)
        listener.close(wait=True)
        return listener

    def test_lines_at_their_limits(self) -> None:
        listener = self.unanswered()
        for line, fault in (
            (b'{"time_s": 0, "ppm": 209500}', None),
            (b'{"time_s": 1, "ppm": 0}', None),
            (b'{"time_s": 2, "ppm": -0.1}', "below"),
            (b'{"time_s": 3, "ppm": 1000000}', None),
            (b'{"time_s": 4, "ppm": 1000001}', "nonsense"),
            (b'{"time_s": 3, "ppm": 20}', "nonsense"),
            (b'{"time_s": 3.001, "ppm": 20}', None),
            (b'{"time_s": true, "ppm": 20}', "nonsense"),
            (b'{"time_s": 5, "ppm": true}', "nonsense"),
            (b'{"time_s": 5, "ppm": NaN}', "nonsense"),
            (b'{"time_s": NaN, "ppm": 20}', "nonsense"),
            (b'{"time_s": 10000000, "ppm": 20}', None),
            (b'{"time_s": 10000001, "ppm": 20}', "nonsense"),
        ):
            found = listener._taken(line)
            self.assertEqual(found and found[0], fault, line)
        self.assertEqual(listener.get_reading().bad, 8)

    def test_when_there_are_too_many_the_first_half_is_thinned(self) -> None:
        listener = self.unanswered()
        with mock.patch.object(oxygen, "MAX_READINGS", 8):
            for i in range(9):
                listener._keep((float(i), 100.0))
        self.assertEqual([at for at, _ in listener.get_reading().readings], [1, 3, 4, 5, 6, 7, 8])

    def test_silent_after_four_seconds(self) -> None:
        listener = self.unanswered()
        listener._keep((1.0, 812.0))
        for quiet_s, state in ((4.0, "reading"), (4.1, "silent")):
            with mock.patch.object(listener, "_quiet_s", return_value=quiet_s):
                found = listener.get_reading()
            self.assertEqual(found.state, state)
        self.assertIn("has sent nothing for 4 s; the last reading was 812 ppm", found.words)

    def test_reads(self) -> None:
        _, listener = self.listen(reading(0, 209_000), reading(0.2, 180_000))
        self.assertTrue(within(lambda: len(listener.get_reading().readings) == 2))
        found = listener.get_reading()
        self.assertEqual((found.state, found.words, found.bad), ("reading", "", 0))
        self.assertAlmostEqual(found.readings[1][0] - found.readings[0][0], 0.2, places=3)

    def test_a_line_in_pieces_is_one(self) -> None:
        speaks, listener = self.listen(reading(0, 200_000)[:9])
        speaks_on = within(lambda: speaks.callers == 1)
        self.assertTrue(speaks_on)
        time.sleep(0.05)
        speaks.send(reading(0, 200_000)[9:])
        self.assertTrue(within(lambda: listener.get_reading().readings != []))

    def test_nonsense_is_reported(self) -> None:
        for lines in (
            [b"HTTP/1.1 400 Bad\r\n"] * 3,
            [b"[1]\n"] * 3,
            [b'{"time_s": true, "ppm": 3}\n'] * 3,
            [b'{"time_s": 1, "ppm": NaN}\n'] * 3,
            [b"x" * 9000],
        ):
            with self.subTest(line=lines[0][:20]):
                _, listener = self.listen(*lines)
                self.assertTrue(within(lambda listener=listener: listener.get_reading().bad > 0))
                self.assertEqual(listener.get_reading().readings, [])
        _, listener = self.listen(b"{\n", b"{\n", b"{\n")
        self.assertTrue(within(lambda: listener.get_reading().state == "nonsense"))
        self.assertIn("is not from a meter", listener.get_reading().words)

    def test_one_bad_line_is_passed_over(self) -> None:
        _, listener = self.listen(reading(0, 200_000), b"~~\n", reading(0.2, 190_000))
        self.assertTrue(within(lambda: len(listener.get_reading().readings) == 2))
        self.assertEqual((listener.get_reading().state, listener.get_reading().bad), ("reading", 1))

    def test_below_nought_and_time_running_back(self) -> None:
        _, listener = self.listen(reading(0, 50), reading(1, -2.5))
        self.assertTrue(within(lambda: listener.get_reading().state == "below"))
        self.assertIn("below 0", listener.get_reading().words)
        self.assertEqual(len(listener.get_reading().readings), 1)
        _, listener = self.listen(reading(5, 50), reading(4, 40), reading(3, 40), reading(2, 40))
        self.assertTrue(within(lambda: listener.get_reading().state == "nonsense"))
        self.assertEqual(len(listener.get_reading().readings), 1)

    def test_maximum_ppm(self) -> None:
        over = b'{"time_s": 1, "ppm": 1000001}\n'
        _, listener = self.listen(reading(0, 1_000_000), over)
        self.assertTrue(within(lambda: listener.get_reading().bad == 1))
        self.assertEqual([ppm for _, ppm in listener.get_reading().readings], [1_000_000])
        # a repeated time is ignored
        _, listener = self.listen(reading(1, 50), reading(1, 40), reading(2, 30))
        self.assertTrue(within(lambda: len(listener.get_reading().readings) == 2))
        self.assertEqual([ppm for _, ppm in listener.get_reading().readings], [50, 30])

    def test_lost_connection_is_reopened(self) -> None:
        speaks, listener = self.listen(reading(0, 50), stays=False)
        self.assertTrue(within(lambda: listener.get_reading().state == "gone"))
        self.assertTrue(within(lambda: speaks.callers >= 2))
        self.assertTrue(within(lambda: len(listener.get_reading().readings) >= 2))

    def test_no_one_there(self) -> None:
        empty = socket.create_server(("127.0.0.1", 0))
        port = empty.getsockname()[1]
        empty.close()
        listener = Listener(port, time.time(), None)
        self.addCleanup(listener.close)
        self.assertTrue(within(lambda: listener.get_reading().state == "gone"))
        self.assertIn(f"port {port}", listener.get_reading().words)

    def test_silence_is_reported(self) -> None:
        _, listener = self.listen(reading(0, 340))
        self.assertTrue(within(lambda: len(listener.get_reading().readings) == 1))
        listener._last_reading_s -= 6
        self.assertEqual(listener.get_reading().state, "silent")
        self.assertIn("340 ppm", listener.get_reading().words)


class Underway(StoreCase):
    """A purge of a kept procedure, by a clock that is set."""

    def setUp(self) -> None:
        super().setUp()
        self.store = Store(Path(self._folder.name))
        procedures.keep_draft(make_joint(COPE), ASSUMED)
        self.what, self.now = format_subject("P-0001", "A"), time.time()
        self.plan = procedures.get_plan(book.find("P-0001", "A"))
        self.listeners, self.fits = Listeners(Path(self._folder.name)), Fits()
        self.addCleanup(self.listeners.close)

    def clock(self) -> float:
        return self.now

    def way(self) -> purge_status.PurgeStatus:
        return purge_status.get_status(
            purge_run.get_purge(self.number), self.plan, self.listeners, self.fits, "mm", self.clock
        )

    def begin(self, port: int | None = None) -> None:
        self.number = purge_run.begin(self.what, "Stay", make_purging(ASK), port, self.clock)

    def standing(self):
        return purge_run.get_purge(self.number)

    def test_by_the_clock_alone(self) -> None:
        """Ten volumes of 1 L at 6 L/min are 100 s: held back until then, not blocked."""
        self.begin()
        self.now += 99
        self.assertEqual(
            (self.way().phase, self.way().ready, self.way().large), ("before", False, "1 min 39 s")
        )
        with self.assertRaisesRegex(NotAllowed, "1 s more"):
            purge_run.start(self.standing(), self.way(), False, self.clock)
        self.now += 1.5
        self.assertTrue(self.way().ready)
        purge_run.start(self.standing(), self.way(), False, self.clock)
        self.assertEqual(self.way().phase, "welding")

    def test_early_strike_is_recorded(self) -> None:
        self.begin()
        self.now += 10
        purge_run.start(self.standing(), self.way(), True, self.clock)
        self.now += 60
        purge_run.stop_arc(self.standing(), self.clock)
        with self.assertRaisesRegex(NotAllowed, "hot"):
            purge_run.stop(
                self.standing(), self.plan, self.way(), False, self.listeners, self.clock
            )
        self.now += 40
        self.assertTrue(self.way().ready)
        purge_run.stop(self.standing(), self.plan, self.way(), False, self.listeners, self.clock)
        record = self.standing().record
        self.assertEqual(
            (record["held"], record["before_s"], record["after_s"], record["at_arc_ppm"]),
            (False, 10.0, 40.0, None),
        )
        # 10 s at 6 and 100 s at 3 L/min: 1 and 5 L
        self.assertAlmostEqual(record["argon_l"], 6.0)
        self.assertEqual(self.way().phase, "done")

    def test_twice_is_once(self) -> None:
        self.begin()
        first = self.number
        self.begin()
        self.assertEqual(self.number, first)
        self.now += 200
        purge_run.start(self.standing(), self.way(), False, self.clock)
        began = self.standing().started
        self.now += 5
        purge_run.start(self.standing(), self.way(), False, self.clock)
        self.assertEqual(self.standing().started, began)

    def test_shut_before_an_arc(self) -> None:
        self.begin()
        purge_run.stop(self.standing(), self.plan, self.way(), False, self.listeners, self.clock)
        self.assertIsNone(purge_run.find_active(self.what))
        self.assertIsNone(purge_run.find_unrecorded(self.what, self.clock))

    def test_with_a_meter(self) -> None:
        speaks = Speaks(*(reading(i / 5, max(40.0, 209_500 * 0.97**i)) for i in range(400)))
        self.addCleanup(speaks.close)
        self.begin(speaks.port)
        self.way()
        self.assertTrue(within(lambda: self.way().readings == 400))
        self.now += 80
        found = self.way()
        self.assertTrue(found.ready)
        self.assertEqual((found.large, found.large_text), ("40 ppm", "at the vent"))
        purge_run.start(self.standing(), found, False, self.clock)
        self.now += 30
        purge_run.stop_arc(self.standing(), self.clock)
        self.now += 60
        purge_run.stop(self.standing(), self.plan, self.way(), False, self.listeners, self.clock)
        record = self.standing().record
        self.assertEqual((record["held"], record["at_arc_ppm"]), (True, 40.0))
        self.assertIsNotNone(record["settles_ppm"])

    def test_a_meter_above_the_target_holds_back(self) -> None:
        speaks = Speaks(*(reading(i / 5, 400.0) for i in range(60)))
        self.addCleanup(speaks.close)
        self.begin(speaks.port)
        self.way()
        self.assertTrue(within(lambda: self.way().readings == 60))
        # Ten volumes are through, and the meter contradicts.
        self.now += 300
        self.assertFalse(self.way().ready)
        with self.assertRaisesRegex(NotAllowed, "reads 400 ppm. The target is 100 ppm"):
            purge_run.start(self.standing(), self.way(), False, self.clock)

    def test_a_meter_that_died_above_the_target_holds_back(self) -> None:
        """Ten volumes are through by the clock, but the last that was read was too much."""
        speaks = Speaks(*(reading(i / 5, 5000.0) for i in range(20)), stays=False)
        self.begin(speaks.port)
        self.way()
        self.assertTrue(within(lambda: self.way().meter == "gone" and self.way().readings >= 20))
        speaks.close()
        self.now += 99
        self.assertIn("Ten volumes will have passed in", self.way().words)
        self.now += 2
        self.assertFalse(self.way().ready)
        self.assertIn("The last meter reading was 5000 ppm", self.way().wait)

    def test_goes_on_after_a_restart(self) -> None:
        speaks = Speaks(*(reading(i / 5, 5000.0 - i) for i in range(30)))
        self.addCleanup(speaks.close)
        self.begin(speaks.port)
        self.way()
        self.assertTrue(within(lambda: self.way().readings == 30))
        self.listeners.close()
        self.store.close()
        # the last line of one that was killed is half there
        file = self.listeners.file(self.number, self.standing().began)
        file.write_text(file.read_text() + "7.2,49")
        self.store = Store(Path(self._folder.name))
        self.listeners, self.fits = Listeners(Path(self._folder.name)), Fits()
        self.addCleanup(self.listeners.close)
        self.now += 12
        found = self.way()
        self.assertEqual((found.phase, found.elapsed_s), ("before", 12.0))
        self.assertGreaterEqual(found.readings, 30)
        # A reader that still writes would outlive the folder.
        self.listeners.close()
        text = readings_csv(
            self.listeners.of(self.number, None, self.standing().began, False).readings
        )
        self.assertTrue(text.startswith("time_s,ppm\r\n"))

    def test_written_down_with_the_run_and_once(self) -> None:
        self.test_early_strike_is_recorded()
        waiting = purge_run.find_unrecorded(self.what, self.clock)
        self.assertEqual(waiting.id, self.number)
        made, _ = runs.record_run("P-0001", "A", typed(run(COPE)), purge=waiting.id)
        self.assertFalse(made.record["purge"]["held"])
        self.assertIsNone(purge_run.find_unrecorded(self.what, self.clock))
        again, _ = runs.record_run(
            "P-0001", "A", typed(run(COPE, notes="another")), purge=waiting.id
        )
        self.assertNotIn("purge", again.record)
        told = next(t.text for t in run_row(made, "mm").figures if t.label == "Purge")
        self.assertIn("started early", told)
        # It survives a correction, and is in the file.
        corrected = runs.correct(
            "P-0001", "A", made.id, typed({**made.record, "notes": "put right"}), "R.T."
        )
        self.assertEqual(corrected.record["purge"], made.record["purge"])
        text = book.procedure_text(queries.get_revision("P-0001", "A"))
        self.assertIn('"before_s": 10.0', text)

    def test_of_another_day_it_is_not_taken_up(self) -> None:
        self.test_early_strike_is_recorded()
        self.now += purge_run.FRESH_S - 1
        self.assertIsNotNone(purge_run.find_unrecorded(self.what, self.clock))
        self.now += 2
        self.assertIsNone(purge_run.find_unrecorded(self.what, self.clock))

    def test_a_runs_purge_is_checked(self) -> None:
        self.test_early_strike_is_recorded()
        good = self.standing().record
        for bad in (
            {"held": 1},
            {"volume_l": -1},
            {"volume_l": None},
            {"colour": 1},
            {"mixing": "x"},
            {"at_arc_ppm": 1e9},
        ):
            with self.subTest(bad=bad), self.assertRaises(InputError):
                runs.record_run("P-0001", "A", typed(run(COPE, purge={**good, **bad})))

    def test_ports(self) -> None:
        self.assertIsNone(purge_run.parse_port("  "))
        self.assertEqual(purge_run.parse_port("8766"), 8766)
        for text in ("80", "70000", "x", "127.0.0.1:8766", "1023", "65536"):
            with self.subTest(text=text), self.assertRaises(InputError):
                purge_run.parse_port(text)
