"""The process of the virtual seams: steps, tracks, bad requests, its end, and memory."""

import io
import json
import os
import signal
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from unittest.mock import patch

import msgspec
from msgspec.structs import replace

from tests.practised import lesson_piece, lesson_plan, weld
from wisearc.core.practice.simulated_welder import simulate_weld
from wisearc.core.shop.shop import ASSUMED
from wisearc.services.background import Background
from wisearc.services.practice.messages import JUDGE, OPEN, SHOW, STEP, SeamRequest
from wisearc.services.practice.seams import PracticeSeams, SeamFailed, encode_plan, encode_shop
from wisearc.services.practice.worker import IDLE_S, MAKES_ROOM_S, MAX_SEAMS, SeamWorker

KEY = "a" * 32
PLAN, SHOP = encode_plan(lesson_plan("flat")), encode_shop(ASSUMED)


def request(ask: str, seam: str = KEY, **more: Any) -> SeamRequest:
    """Return a request about a short flat seam."""
    return SeamRequest(1, ask, seam, PLAN, SHOP, 30.0, **more)


class Worker(unittest.TestCase):
    def setUp(self) -> None:
        self.worker = SeamWorker(io.StringIO(), io.StringIO())
        self.track = simulate_weld(lesson_piece("flat")).track

    def ask(self, asked: SeamRequest) -> Any:
        return msgspec.to_builtins(self.worker.answer(asked))

    def rows(self, start: int, stop: int) -> Any:
        return [tuple(row) for row in self.track.samples[start:stop].tolist()]

    def test_steps_lead_to_the_bead(self) -> None:
        piece = self.ask(request(OPEN))["piece"]
        self.assertEqual((piece["length_mm"], piece["peak_a"]), (30.0, 54.8))
        self.assertEqual(len(piece["across_mm"]), len(set(piece["across_mm"])))
        wide_mm = 0.0
        for start in range(0, len(self.track.samples), 9):
            frame = self.ask(request(STEP, samples=self.rows(start, start + 9)))
            wide_mm = max(wide_mm, frame.get("w", 0.0))
        self.assertGreater(wide_mm, 2.5)
        self.assertFalse(frame.get("arc", False) or frame.get("gas", False))
        seam = self.worker.seams[KEY].seam
        self.assertEqual(len(seam.steps), frame["n"])
        # Every column of the bead was sent, with the edges that it has now.
        sent = self.worker.seams[KEY].frames.make(complete=True)
        widths = [right - left for _, left, right, _ in sent.bead]
        self.assertAlmostEqual(max(widths) / 100, float(seam.bead.list_widths_mm().max()), 1)
        self.assertEqual(len(sent.tint), len(seam.sheet.middle_mm))

    def test_frames_are_small(self) -> None:
        self.ask(request(OPEN))
        sizes = []
        for start in range(0, 400, 2):
            frame = self.worker.answer(request(STEP, samples=self.rows(start, start + 2)))
            sizes.append(len(msgspec.json.encode(frame)))
        self.assertLess(sorted(sizes)[len(sizes) // 2], 1500)
        self.assertLess(max(sizes), 12_000)

    def test_an_unknown_seam_is_reopened_with_earlier_samples(self) -> None:
        self.assertEqual(self.ask(request(STEP, samples=self.rows(0, 3))), {"no-seam": True})
        body = self.ask(request(OPEN, samples=self.rows(0, 300)))
        self.assertEqual(body["frame"]["n"], 299)
        self.assertTrue(body["frame"]["bead"])

    def test_judged_as_the_track_alone(self) -> None:
        samples = self.rows(0, len(self.track.samples))
        body = self.ask(request(JUDGE, "", samples=samples, when="2026-05-04"))
        self.assertEqual(body["score"], round(weld(lesson_piece("flat")).scores.total, 1))
        self.assertEqual(body["format"], "wisearc/practice")
        self.assertTrue(body["frame"]["bead"])

    def test_shows_a_weld_without_a_slip(self) -> None:
        body = self.ask(request(SHOW))
        self.assertEqual(len(body["samples"]), len(self.track.samples))

    def test_too_many_and_idle_seams(self) -> None:
        for n in range(MAX_SEAMS):
            self.ask(request(OPEN, f"{n:032d}"))
        answer = self.answer_line(request(OPEN, "x" * 32))
        self.assertIn("Too many seams", answer["error"])
        # Who starts again and again leaves seams behind: they make room.
        for opened in list(self.worker.seams.values())[:3]:
            opened.used_s -= MAKES_ROOM_S + 1
        self.ask(request(OPEN, "x" * 32))
        self.assertEqual(len(self.worker.seams), MAX_SEAMS - 2)
        for opened in self.worker.seams.values():
            opened.used_s -= IDLE_S + 1
        self.ask(request(OPEN, "y" * 32))
        self.assertEqual(list(self.worker.seams), ["y" * 32])

    def answer_line(self, asked: SeamRequest) -> Any:
        self.worker.source = io.StringIO(msgspec.json.encode(asked).decode() + "\n")
        self.worker.target = io.StringIO()
        self.worker.run()
        return json.loads(self.worker.target.getvalue())

    def test_bad_samples_are_refused_and_the_seam_lives(self) -> None:
        self.ask(request(OPEN))
        for samples, words in (
            ([(1.0, 5.0, 0.0, 900.0)], "from 0 to 500 A"),
            ([(2.0, 5.0, 0.0, 5.0), (1.0, 5.0, 0.0, 5.0)], "Times must rise"),
            ([(1e6, 5.0, 0.0, 5.0)], "from 0 to 600 s"),
        ):
            self.assertIn(words, self.answer_line(request(STEP, samples=samples))["error"])
        self.assertEqual(self.ask(request(STEP, samples=self.rows(0, 3)))["n"], 2)


class Process(unittest.TestCase):
    def setUp(self) -> None:
        self.background = Background()
        self.seams = PracticeSeams(self.background)
        self.addCleanup(self.background.close)
        self.addCleanup(self.seams.close)

    def test_restarts_after_its_end(self) -> None:
        self.assertIn(b'"piece"', self.seams.ask(request(OPEN)))
        process = self.seams._process
        assert process is not None
        process.kill()
        process.wait()
        self.assertEqual(self.seams.ask(request(STEP)), b'{"no-seam":true}')
        self.assertIn(b'"piece"', self.seams.ask(request(OPEN)))

    def test_a_process_that_just_ended_loses_nothing(self) -> None:
        """Its end is not known yet, so the request is written to a closed pipe."""
        for asked, answer in ((STEP, b'{"no-seam":true}'), (OPEN, b'"piece"')):
            self.seams.ask(request(OPEN))
            process = self.seams._process
            assert process is not None
            # Under the lock, nobody reads of its end before the request is written.
            with self.seams._guard, patch.object(process, "poll", return_value=None):
                process.kill()
                process.wait()
                self.assertIn(answer, self.seams.ask(request(asked)))

    def test_a_request_in_progress_ends_with_its_process(self) -> None:
        self.seams.ask(request(OPEN))
        process = self.seams._process
        assert process is not None
        os.kill(process.pid, signal.SIGSTOP)
        waiting = ThreadPoolExecutor(1)
        self.addCleanup(waiting.shutdown)
        answer = waiting.submit(self.seams.ask, request(STEP))
        while not self.seams._answers:
            time.sleep(0.01)
        with self.seams._guard:
            process.kill()
            process.wait()
            # The next request starts a new process before the end of the old one is read.
            self.seams.ask(request(OPEN))
        self.assertEqual(answer.result(10), b'{"no-seam":true}')

    def test_a_refusal_is_its_sentence(self) -> None:
        with self.assertRaisesRegex(SeamFailed, "at least 20 mm"):
            self.seams.ask(replace(request(OPEN), length_mm=3.0))

    def test_closed(self) -> None:
        self.seams.close()
        with self.assertRaisesRegex(SeamFailed, "saved"):
            self.seams.ask(request(OPEN))

    def test_runs_in_its_own_process(self) -> None:
        self.seams.ask(request(OPEN))
        process = self.seams._process
        assert process is not None
        self.assertNotEqual(process.pid, os.getpid())
