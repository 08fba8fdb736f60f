"""Fields that pages ask for: one worker process, shared answers, stops and failures."""

import json
import os
import sys
import threading
import time
import unittest
from unittest import mock

from tests.samples import member, plan
from wisearc.core.conduction.trial import NO_TRIAL, Trial
from wisearc.core.errors import InputError
from wisearc.services.background import Background
from wisearc.services.heat import requests
from wisearc.services.heat.requests import Answer, HeatRequests, Request, read_proposal
from wisearc.services.heat.worker import Worker

SHORT = plan("butt", member(thickness="1.5 mm"), length="40 mm")


class Requests(unittest.TestCase):
    def setUp(self) -> None:
        self.background = Background()
        self.asked = HeatRequests(self.background)
        self.addCleanup(self.background.close)
        self.addCleanup(self.asked.close)

    def ready(self, trial: Trial = NO_TRIAL, preview: bool = True) -> Answer:
        """Ask until the answer is there."""
        until = time.monotonic() + 150
        while time.monotonic() < until:
            answer = self.asked.ask_field(SHORT, trial, preview)
            if answer.is_ready:
                return answer
        raise AssertionError("no answer")

    def test_answer_is_calculated_once(self) -> None:
        first = self.ready()
        body = json.loads(first.body)
        self.assertEqual((first.error, body["format"]), ("", "wisearc/heat"))
        self.assertTrue(body["lines"])
        self.assertEqual(set(body["picture"]), {"mm", "in"})
        self.assertIs(self.asked.ask_field(SHORT, NO_TRIAL, True), first)
        other = self.ready(Trial(travel_mm_s=5.0))
        self.assertNotEqual(json.loads(other.body)["pool"], body["pool"])

    def test_bad_input_is_refused_at_once(self) -> None:
        with self.assertRaises(InputError):
            self.asked.ask_field(SHORT, Trial(bar_from_mm=50.0), True)

    def test_killed_worker_is_replaced(self) -> None:
        self.ready()
        process = self.asked._process
        assert process is not None
        process.kill()
        process.wait()
        answer = self.ready(Trial(current_a=40.0))
        if answer.error:
            answer = self.ready(Trial(current_a=40.0))
        self.assertEqual(answer.error, "")

    def test_old_answers_are_dropped(self) -> None:
        with mock.patch.object(requests, "MAX_CACHED", 1000):
            self.ready()
            self.ready(Trial(current_a=41.0))
            self.assertEqual(len(self.asked._answers), 1)

    def test_goal(self) -> None:
        until, answer = time.monotonic() + 150, Answer("")
        plans = [SHORT, plan("butt", member(thickness="1.5 mm"), length="40 mm", back="open")]
        while not answer.is_ready and time.monotonic() < until:
            answer = self.asked.ask_change(plans, "through")
        self.assertTrue(read_proposal(answer).already or read_proposal(answer).chosen != 0)


class Lines(unittest.TestCase):
    """The worker without a process: requests in, answers out, by pipes."""

    def type_in(self, write_end: int, typed: bytes) -> None:
        """Write into a pipe, and close it."""
        with os.fdopen(write_end, "wb") as pipe:
            pipe.write(typed)

    def answers(self, *asked: Request) -> list[dict[str, object]]:
        read_end, write_end = os.pipe()
        out_read, out_write = os.pipe()
        with os.fdopen(read_end) as source, os.fdopen(out_write, "w") as target:
            typed = b"".join(requests.msgspec.json.encode(one) + b"\n" for one in asked)
            threading.Thread(target=self.type_in, args=(write_end, typed)).start()
            worker = Worker(source, target, lambda made, field: {"lines": []})
            collected: list[bytes] = []
            with os.fdopen(out_read, "rb") as answered:
                reader = threading.Thread(target=lambda: collected.extend(answered))
                reader.start()
                worker.run()
                target.close()
                reader.join()
        return [json.loads(line) for line in collected]

    def test_stop_and_error(self) -> None:
        data = (requests._encode(SHORT),)
        told = self.answers(
            Request("1", data),
            Request("2", data, Trial(current_a=1.0)),
            Request("3", data),
            Request("3", stop=True),
        )
        last = {str(line["id"]): line for line in told if "progress" not in line}
        self.assertIn(str(last["1"].get("error", "")), ("", "stopped"))
        self.assertIn("must be from 3 to 400", str(last["2"]["error"]))
        self.assertEqual(last["3"]["error"], "stopped")

    def test_stopped_request_that_is_asked_later(self) -> None:
        read_end, write_end = os.pipe()
        with os.fdopen(read_end) as source, os.fdopen(write_end, "wb") as typed:
            worker = Worker(source, sys.stdout, lambda made, field: {})
            for request in (Request("1", stop=True), Request("1")):
                typed.write(requests.msgspec.json.encode(request) + b"\n")
                typed.flush()
                worker._read(wait=True)
        self.assertEqual((worker.stopped, len(worker.waiting)), (set(), 1))
