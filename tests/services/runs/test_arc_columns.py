"""Columns of arc logs: one build for all requests, no change when complete, repair."""

import os
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from unittest import mock

import numpy as np

from tests.store_case import StoreCase
from tests.waves import Wave, format_csv
from wisearc.core.arc_log.arc_log import analyse
from wisearc.formats.arc_log.arc_csv import read_arc_csv
from wisearc.services.background import Background
from wisearc.services.runs import arc_columns
from wisearc.services.runs.arc_columns import ArcColumns
from wisearc.services.runs.kept_files import KeptFiles
from wisearc.services.runs.log_imports import LogImports
from wisearc.store.errors import Missing, Preparing, Unreadable


class ColumnsCase(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.files, self.background = KeptFiles(self.folder), Background()
        self.addCleanup(self.background.close)
        self.source = self.folder / "given.csv"
        self.source.write_text(format_csv(*Wave(arc=5.0).rows()), encoding="ascii")
        self.sha = self.files.put_log(self.source)
        self.columns = self.new()
        patient = mock.patch.object(arc_columns, "WAIT_S", 20.0)
        patient.start()
        self.addCleanup(patient.stop)

    def new(self) -> ArcColumns:
        return ArcColumns(self.folder, self.files, self.background)

    @property
    def stored(self) -> Path:
        return self.folder / "arcs" / self.sha

    def told(self) -> list[tuple[str, int, int, bytes]]:
        """Return the names, sizes, times and content of the saved files."""
        return [
            (path.name, path.stat().st_ino, path.stat().st_mtime_ns, path.read_bytes())
            for path in sorted(self.stored.iterdir())
        ]


class Build(ColumnsCase):
    def test_simultaneous_requests_share_one_build(self) -> None:
        columns = self.columns
        with (
            mock.patch.object(arc_columns, "read_arc_csv", side_effect=read_arc_csv) as reads,
            ThreadPoolExecutor(12) as threads,
        ):
            together = threading.Barrier(12)

            def ask(_: int) -> list[float]:
                together.wait()
                return list(columns.window(self.sha, 0.5, 1.5)[0].high.tolist())

            found = list(threads.map(ask, range(12)))
        self.assertEqual(reads.call_count, 1)
        self.assertEqual(found, [found[0]] * 12)
        with self.source.open(encoding="ascii") as file:
            rows = [line.split(",") for line in file.readlines()[1:]]
        inside = [float(row[1]) for row in rows if 0.5 <= float(row[0]) <= 1.5]
        self.assertAlmostEqual(max(found[0]), max(inside), places=3)

    def test_complete_columns_never_change(self) -> None:
        self.columns.window(self.sha, None, None)
        before = self.told()
        self.assertEqual([name for name, *_ in before], ["bins.npz", "current_a", "time_s"])
        readings = LogImports(self.files, self.columns, self.background)
        for _ in range(2):
            self.source.write_text(format_csv(*Wave(arc=5.0).rows()), encoding="ascii")
            key = readings.begin(self.source, "again.csv", None, None)
            self.background.close()
            self.assertEqual(readings.of(key).state, "done")
        self.assertEqual(self.told(), before)

    def test_open_columns_can_be_read_after_deletion(self) -> None:
        whole = self.columns.window(self.sha, None, None)[0]
        with mock.patch.object(arc_columns, "MAX_STORED", 1):
            for i in range(2):
                other = self.folder / "other.csv"
                other.write_text(format_csv(*Wave(arc=3.0 + i).rows()), encoding="ascii")
                with self.columns.create_build_folder() as place:
                    found = read_arc_csv(other, folder=place)
                    self.columns.put(f"{i:064d}", place, found, analyse(found))
        self.assertFalse(self.stored.exists())
        self.assertEqual(len(list((self.folder / "arcs").glob("*/bins.npz"))), 1)
        again = self.columns.window(self.sha, None, None)[0]
        self.assertEqual(again.high.tolist(), whole.high.tolist())
        # The analysis is saved as long as the log.
        self.assertTrue(self.stored.with_suffix(".json").exists())

    def test_damaged_columns_are_rebuilt(self) -> None:
        whole = self.columns.window(self.sha, None, None)[0].high.tolist()
        harms = {
            "current_a": lambda path: os.truncate(path, 40),
            "time_s": lambda path: path.unlink(),
            "bins.npz": lambda path: path.write_bytes(b"PK"),
        }
        for columns in (self.columns, None):
            for name, damage in harms.items():
                with self.subTest(name, open=columns is not None):
                    damage(self.stored / name)
                    used = columns or self.new()
                    found = used.window(self.sha, 0.0, 1e9)[0].high.tolist()
                    part = used.window(self.sha, 1.0, 1.2)[0]
                    self.assertEqual(found, whole)
                    self.assertGreater(len(part.high), 100)

    def test_long_build_reports_progress(self) -> None:
        go, reads = threading.Event(), read_arc_csv

        def slow(path, watch, folder):
            watch(0.25)
            go.wait(20)
            return reads(path, watch, folder)

        with (
            mock.patch.object(arc_columns, "WAIT_S", 0.05),
            mock.patch.object(arc_columns, "read_arc_csv", side_effect=slow) as begun,
        ):
            for _ in range(2):
                with self.assertRaisesRegex(Preparing, "Preparing the arc log: (0|25) %"):
                    self.columns.window(self.sha, None, None)
            go.set()
            self.background.close()
            self.assertEqual(begun.call_count, 1)
        self.assertEqual(len(self.columns.window(self.sha, 0.0, 1.0)), 5)

    def test_damaged_log_is_reported_each_time(self) -> None:
        path = self.files.path(self.sha, ".csv.gz")
        whole = path.read_bytes()
        for damaged in (whole[: len(whole) // 2], b"no gzip", whole[:40] + b"\0" * 40 + whole[80:]):
            path.write_bytes(damaged)
            for ask in (self.columns.log, lambda sha: self.columns.window(sha, None, None)):
                with self.assertRaisesRegex(Unreadable, "damaged"):
                    ask(self.sha)
        path.write_bytes(whole)
        self.assertGreater(self.columns.log(self.sha).rows, 100)
        with self.assertRaises(Missing):
            self.columns.window("0" * 64, None, None)

    def test_build_keeps_the_saved_analysis(self) -> None:
        with self.columns.create_build_folder() as place:
            found = read_arc_csv(self.source, folder=place)
            judged = analyse(found, 123.0)
            self.columns.put(self.sha, place, found, judged)
        for path in self.stored.iterdir():
            path.unlink()
        self.new().window(self.sha, None, None)
        self.assertEqual(self.columns.log(self.sha).heat_input_kj_mm, judged.heat_input_kj_mm)
        self.assertIsNotNone(judged.heat_input_kj_mm)

    def test_failed_build_leaves_no_files(self) -> None:
        for failure in (OSError(28, "full"), RuntimeError("a fault")):
            with (
                self.subTest(failure),
                mock.patch.object(np, "savez", side_effect=failure),
                mock.patch("threading.excepthook"),
                self.assertRaisesRegex(Exception, "full|Wise Arc has an error"),
            ):
                self.columns.window(self.sha, None, None)
            self.background.close()
            self.assertEqual([p.name for p in (self.folder / "arcs").iterdir()], [])
        self.assertEqual(self.columns.window(self.sha, 0.5, 1.0)[1], 0.5)


class Read(ColumnsCase):
    def reading(self, data: bytes):
        readings = LogImports(self.files, self.columns, self.background)
        path = self.folder / "sent.csv.part"
        path.write_bytes(data)
        key = readings.begin(path, "sent.csv", None, None)
        self.background.close()
        self.assertFalse(path.exists())
        return readings.of(key)

    def test_cr_line_ends(self) -> None:
        text = self.source.read_bytes()
        found = self.reading(text.replace(b"\r\n", b"\n").replace(b"\n", b"\r"))
        self.assertEqual((found.state, found.words), ("done", ""))
        self.assertEqual(self.columns.log(found.sha256).rows, self.columns.log(self.sha).rows)

    def test_program_error_is_reported(self) -> None:
        with (
            mock.patch(
                "wisearc.services.runs.log_imports.analyse_readings", side_effect=KeyError("x")
            ),
            mock.patch("threading.excepthook"),
        ):
            found = self.reading(self.source.read_bytes())
        self.assertFalse(found.going)
        self.assertEqual(found.state, "failed")
        self.assertIn("Wise Arc has an error and cannot read this log", found.words)

    def test_invalid_heading(self) -> None:
        found = self.reading(b'"time_s,current_a\r1,2\r"\n3,4\n')
        self.assertEqual(found.state, "failed")
        self.assertIn("time_s", found.words)

    def test_a_full_disk(self) -> None:
        with mock.patch.object(np, "savez", side_effect=OSError(28, "full")):
            found = self.reading(self.source.read_bytes())
        self.assertEqual(found.state, "failed")
        self.assertIn("the disk is full", found.words)

    def test_columns_on_disk_equal_columns_in_memory(self) -> None:
        chance = np.random.default_rng(3)
        path = self.folder / "odd.csv"
        rows = [f"{i / 50:.2f},{chance.normal(50, 3):.2f},,{i % 7 > 2:d}" for i in range(9000)]
        rows[70], rows[5000], rows[8000] = "nonsense", "3.0,50,,1", "160.5,9999,,1"
        path.write_text("time_s,current_a,voltage_v,gas\n" + "\n".join(rows), encoding="ascii")
        with (
            self.columns.create_build_folder() as place,
            mock.patch("wisearc.formats.arc_log.arc_csv.BLOCK", 8192),
        ):
            disk, memory = read_arc_csv(path, folder=place), read_arc_csv(path)
            for one, other in (
                (disk.time_s, memory.time_s),
                (disk.current_a, memory.current_a),
                (disk.gas > 0, memory.gas > 0),
            ):
                np.testing.assert_array_equal(one, other)
            self.assertEqual((disk.bad_rows, disk.first_bad), (memory.bad_rows, memory.first_bad))
            self.assertEqual(disk.bad_rows, 3)
            self.assertIn("row 71", disk.first_bad)
            self.assertEqual(analyse(disk), analyse(memory))


if __name__ == "__main__":
    unittest.main()
