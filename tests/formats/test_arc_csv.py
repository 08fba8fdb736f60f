"""Log files: every variant, blocks against the complete file, and one sentence for each error."""

import json
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np

from tests.waves import Wave, format_csv
from wisearc.core.arc_log.arc_log import analyse
from wisearc.core.errors import InputError
from wisearc.formats.arc_log import arc_csv
from wisearc.formats.arc_log.arc_csv import read_arc_csv
from wisearc.formats.arc_log.arc_json import arc_log_data

WAVE = Wave(rate=1.5, on=0.3, peak=110, background=5.5, hz=200, arc=10, noise=1.0)


class Logs(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "log.csv"
        self.time, self.current, self.gas = WAVE.rows()
        self.text = format_csv(self.time, self.current, gas=self.gas)

    def read(self, data: str | bytes, **more: object):
        self.path.write_bytes(data.encode() if isinstance(data, str) else data)
        return read_arc_csv(self.path, **more)

    def refused(self, data: str | bytes, words: str) -> None:
        with self.assertRaisesRegex(InputError, words):
            self.read(data)

    def test_clock_that_restarts_between_blocks(self) -> None:
        rows = "".join(f"{i / 100:.2f},50\n" for i in range(2000))
        again = "".join(f"{i / 100:.2f},50\n" for i in range(1000))
        self.path.write_text("time_s,current_a\n" + rows + again, encoding="ascii")
        for size in (len(rows), 700, 10**6):
            with mock.patch("wisearc.formats.arc_log.arc_csv.BLOCK", size):
                found = read_arc_csv(self.path)
            self.assertEqual(found.rows, 2000)
            self.assertEqual(found.bad_rows, 1000)
            self.assertEqual(found.first_bad, "the time stops increasing at row 2001")

    def test_every_way_it_is_written(self) -> None:
        plain = self.read(self.text)
        np.testing.assert_allclose(plain.time_s, np.round(self.time, 4))
        np.testing.assert_allclose(plain.current_a, self.current, rtol=1e-5)
        comma = self.text.replace(",", ";").replace(".", ",")
        ways = {
            "tabs": self.text.replace(",", "\t"),
            "semicolons": self.text.replace(",", ";"),
            "decimal commas": comma,
            "a mark": "\ufeff" + self.text,
            "line ends": self.text.replace("\n", "\r\n"),
            "upper case": self.text.replace("time_s", "Time_s"),
            "no last line end": self.text.rstrip(),
            "UTF-16": self.text.encode("utf-16"),
            "more columns": (
                self.text.replace("gas", "note,gas", 1)
                .replace("\n0.", "\n0.")
                .replace(",0\n", ",,0\n")
                .replace(",1\n", ",,1\n")
            ),
        }
        for name, data in ways.items():
            with self.subTest(name):
                found = self.read(data)
                self.assertEqual((found.rows, found.bad_rows), (plain.rows, 0))
                np.testing.assert_array_equal(found.time_s, plain.time_s)
                np.testing.assert_array_equal(found.current_a, plain.current_a)
                np.testing.assert_array_equal(found.gas, plain.gas)
        self.assertIsNone(plain.voltage_v)

    def test_blocks_of_any_size_equal_one_block(self) -> None:
        rough = self.text.replace("\n1.0050,", "\noff,").replace("\n3.0050,", "\n2.0,")
        whole = self.read(rough)
        for block in (4096, 5000, 40_000):
            with mock.patch.object(arc_csv, "BLOCK", block):
                found = self.read(rough)
            np.testing.assert_array_equal(found.time_s, whole.time_s)
            np.testing.assert_array_equal(found.current_a, whole.current_a)
            self.assertEqual((found.bad_rows, found.first_bad), (whole.bad_rows, whole.first_bad))
            self.assertEqual(arc_log_data(analyse(found)), arc_log_data(analyse(whole)))
        self.assertEqual(whole.bad_rows, 2)

    def test_rows_that_are_none(self) -> None:
        lines = self.text.splitlines()
        for i, bad in ((10, "x,50,1"), (20, "0.1"), (30, ",,"), (40, "nan,5,1"), (50, "")):
            lines[i] = bad
        found = self.read("\n".join(lines))
        self.assertEqual(found.rows, len(self.time) - 5)
        self.assertEqual(found.bad_rows, 4)
        self.assertIn("row 10: “x,50,1”", found.first_bad)

    def test_a_time_that_runs_back_is_left_out(self) -> None:
        lines = self.text.splitlines()
        found = self.read("\n".join([*lines[:500], "0.5,50,1", "0.6,50,1", *lines[500:]]))
        self.assertEqual((found.rows, found.bad_rows), (len(self.time), 2))
        self.assertIn("the time stops increasing at row 500", found.first_bad)

    def test_refused_in_one_sentence(self) -> None:
        self.refused("", "is empty")
        self.refused("   \n", "is empty")
        self.refused("time_s,current_a\n", "contains no readings")
        self.refused("t,i\n0,1\n", "column names.*Missing: time_s and current_a")
        self.refused("time_s|current_a\n0|1\n", "column names")
        self.refused("time_s,current_a,current_a\n0,1,1\n", "Missing: current_a")
        self.refused(
            "time_s,current_a\nhello,world\nso,on\n", "contains no readings.*row 1: “hello,world”"
        )
        self.refused(b"time_s,current_a\0\0\n0,1", "is not text")
        self.refused(b"\xff\xfet\0i", "is incomplete")
        self.refused(
            "time_s,current_a\n0,50\n1,50\n0.5,50\n0.6,50\n0.7,50\n0.8,50\n", "are not readings"
        )
        self.refused("time_s,current_a\n" + "1" * 9_000_000 + "\n", "a line of more than")

    def test_too_large_file_is_refused_before_parsing(self) -> None:
        with self.path.open("wb") as file:
            file.truncate(2_000_000_000)
        with (
            mock.patch.object(arc_csv, "_read", side_effect=AssertionError),
            self.assertRaisesRegex(InputError, r"2.0 GB.*1 GB"),
        ):
            read_arc_csv(self.path)
        with mock.patch.object(arc_csv, "MAX_ROWS", 100):
            self.refused(self.text, "more than 100 rows")

    def test_progress_is_reported_and_can_be_cancelled(self) -> None:
        told: list[float] = []
        with mock.patch.object(arc_csv, "BLOCK", 5000):
            self.read(self.text, watch=told.append)
        self.assertEqual(told, sorted(told))
        self.assertEqual(told[-1], 1.0)

        def stop(_share: float) -> None:
            raise KeyboardInterrupt

        with mock.patch.object(arc_csv, "BLOCK", 5000), self.assertRaises(KeyboardInterrupt):
            self.read(self.text, watch=stop)

    def test_parsed_data_matches_the_schema(self) -> None:
        from tests.schemas import check

        data = arc_log_data(analyse(self.read(self.text), 100.0))
        check("arc-log", data)
        self.assertEqual(json.loads(json.dumps(data, allow_nan=False)), data)
