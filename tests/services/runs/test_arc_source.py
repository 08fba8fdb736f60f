"""A power source.

Saved immediately, reported if silent, gone or invalid, and continued after a restart.
"""

import tempfile
import threading
import time
import unittest
from collections.abc import Iterator
from pathlib import Path
from unittest import mock

from tests.samples import EVERY
from wisearc.core.arc_log.limits import get_limits
from wisearc.core.arc_log.signals import PlannedArc
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.arc_log.arc_csv import read_arc_csv
from wisearc.services.weld_session import arc_source
from wisearc.services.weld_session.arc_source import Source, Sources, read_trace
from wisearc.services.weld_session.session_view import build_trace
from wisearc.simulators.line import Line


def steady(start: float = 0.0, count: int = 40) -> Iterator[dict[str, float]]:
    for i in range(count):
        yield {"time_s": start + i * 0.02, "current_a": 50.0, "voltage_v": 10.0, "gas": 1}


class Listened(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.file = self.folder / "traces" / "1-1000.csv"

    def line(self, make: object, speed: float = 1.0) -> Line:
        found = Line(make, speed=speed)
        self.addCleanup(found.close)
        threading.Thread(target=found.serve, daemon=True).start()
        return found

    def source(self, port: int) -> Source:
        found = Source(port, time.time() - 1.0, self.file, PlannedArc(10.5))
        self.addCleanup(found.close, True)
        return found

    def until(self, true: object) -> None:
        for _ in range(200):
            if true():
                return
            time.sleep(0.02)
        self.fail("it never came")

    def test_silent_after_four_seconds(self) -> None:
        # The source sends nothing, and stays connected.
        ended = threading.Event()

        def stay() -> object:
            ended.wait(60)
            yield from ()

        self.addCleanup(ended.set)
        source = self.source(self.line(stay).port)
        source._keep([(1000.0, 50.0, 10.0, 1.0)])
        for quiet_s, state in ((4.0, "reading"), (4.1, "silent")):
            with mock.patch.object(source, "_quiet_s", return_value=quiet_s):
                found = source.standing(999.0)
            self.assertEqual((found.state, len(found.rows)), (state, 1))
        self.assertIn("has sent nothing for 4 s", found.words)

    def test_a_file_over_its_limit_is_not_added_to(self) -> None:
        row = (1.0, 50.0, None, None)
        arc_source._append_rows(self.file, [row])
        size = self.file.stat().st_size
        for limit, rows in ((size - 1, 1), (size, 2), (size, 2)):
            with mock.patch.object(arc_source, "MAX_BYTES", limit):
                arc_source._append_rows(self.file, [row])
            self.assertEqual(len(read_trace(self.file)), rows)

    def test_readings_are_saved_and_parsed_as_a_log(self) -> None:
        source = self.source(self.line(steady).port)
        self.until(lambda: self.file.exists() and len(read_trace(self.file)) == 40)
        found = read_arc_csv(self.file)
        self.assertEqual(found.rows, 40)
        self.assertAlmostEqual(float(found.time_s[0]), 1.0, delta=0.5)
        self.assertEqual(len(source.standing(float(found.time_s[-2])).rows), 1)
        self.until(lambda: source.standing(-1).state == "gone")
        self.assertIn("tries again", source.standing(-1).words)

    def test_excursion_is_reported_while_it_lasts(self) -> None:
        plan = make_plan(make_joint(EVERY["butt"]), ASSUMED)
        low, high = get_limits(plan)["current_a"]
        for amps, words in ((high + 30, "Current"), ((low + high) / 2, "")):
            self.file = self.folder / "traces" / f"{amps:.0f}.csv"
            rows = [{"time_s": i * 0.02, "current_a": amps, "gas": 1} for i in range(200)]
            source = self.source(self.line(lambda told=rows: iter(told), 20.0).port)
            self.until(lambda known=source: known.standing(-1).live.rows == 200)
            told = build_trace(source, plan, None, -1.0, None, "mm")
            self.assertEqual([one.partition(" ")[0] for one in told.left], [words] if words else [])
            self.assertEqual(dict(told.facts)["Current"], f"{amps:.0f} A")

    def test_after_a_restart_it_goes_on_from_its_file(self) -> None:
        self.source(self.line(steady).port)
        self.until(lambda: self.file.exists() and len(read_trace(self.file)) == 40)
        self.file.write_text(self.file.read_text() + "1.9,5")
        again = Source(
            self.line(lambda: steady(0.0, 10)).port, time.time() - 5.0, self.file, PlannedArc(10.5)
        )
        self.addCleanup(again.close, True)
        self.until(lambda: again.standing(-1).live.rows >= 50)

    def test_unknown_messages(self) -> None:
        port = self.line(lambda: ({"time_s": i * 0.01, "amps": 3} for i in range(60))).port
        source = self.source(port)
        self.until(lambda: source.standing(-1).state in ("nonsense", "gone"))
        self.assertEqual(source.standing(-1).live.rows, 0)
        odd = [
            {"time_s": 0.0, "current_a": 1e9},
            {"time_s": 0.1, "current_a": True},
            {"time_s": 0.2, "current_a": None},
            {"time_s": 0.3, "current_a": 50, "gas": "on"},
            {"time_s": 0.4, "current_a": 50},
        ]
        other = self.source(self.line(lambda: iter(odd)).port)
        self.until(lambda: other.standing(-1).live.rows == 1)

    def test_impossible_readings_are_ignored(self) -> None:
        """2000 A and ten million seconds, as a log's."""
        rows = [
            {"time_s": at, "current_a": amps}
            for at, amps in (
                (-0.1, 50),
                (0.0, 2000.1),
                (0.1, -2000.1),
                (0.2, 2000),
                (0.3, -2000),
                (1e7, 7),
                (1.0001e7, 8),
            )
        ]
        source = self.source(self.line(lambda: iter(rows), 1e9).port)
        self.until(lambda: source.standing(-1).state == "gone")
        kept = [amps for _, amps, *_ in read_trace(self.file)]
        self.assertEqual(kept[:3], [2000, -2000, 7])
        self.assertEqual(set(kept), {2000, -2000, 7})

    def test_no_one_answers(self) -> None:
        source = self.source(1)
        self.until(lambda: source.standing(-1).state == "gone")
        self.assertIn("There is no power source at port 1", source.standing(-1).words)

    def test_source_is_released_after_the_run(self) -> None:
        sources = Sources(self.folder)
        self.addCleanup(sources.close)
        port = self.line(steady).port
        one = sources.of(1, port, 1000.0, True, PlannedArc(10.5))
        self.assertIs(sources.of(1, port, 1000.0, True, PlannedArc(10.5)), one)
        self.assertIsNone(sources.of(1, port, 1000.0, False, PlannedArc(10.5)))
        self.assertIsNone(sources.of(2, None, 1000.0, True, PlannedArc(10.5)))
