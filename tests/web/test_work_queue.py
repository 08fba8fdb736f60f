"""Heavy requests wait for a slot. Light requests do not."""

import threading
import time
import unittest
from collections.abc import Callable
from unittest import mock

from tests.web.case import WebCase
from wisearc.web import throttle, work_queue
from wisearc.web.context import get_context
from wisearc.web.plan import views

HEAVY = "/?joint=tee&" + "&".join(f"pins.{pin}=1" for pin in ("cup", "a", "b", "c", "d"))


class HeavyRequests(WebCase):
    def test_heavy_requests(self) -> None:
        for query, file, heavy in (
            (b"joint=tee&pins.cup=8&pins.x=1&pins.y=1&pin.z=1", False, False),
            (b"pins.a=1&pins.b=1&pins.c=1&pin.d=1&pin.e=1", False, True),
            (b"q=" + b"x" * 1498, False, False),
            (b"q=" + b"x" * 1499, False, True),
            (b"", True, True),
        ):
            with self.subTest(query=query[:40], file=file):
                self.assertEqual(throttle.is_heavy(query, file), heavy)

    def test_files_are_heavy(self) -> None:
        with mock.patch.object(throttle, "is_heavy", return_value=False) as asked:
            for path, file in (
                ("/procedures/read", True),
                ("/shop/import", True),
                ("/procedures/draft", False),
            ):
                self.post(path, {}, page="/procedures/")
                self.assertEqual(asked.call_args[0][1], file, path)

    def held_up(self) -> tuple[threading.Semaphore, threading.Event, Callable[..., object]]:
        """Return a slow planning function with its start signal and its end signal."""
        begun, over, real = threading.Semaphore(0), threading.Event(), views.build_plan_view

        def slow(*args: object) -> object:
            begun.release()
            over.wait(10)
            return real(*args)

        return begun, over, slow

    def test_two_heavy_requests_run_and_light_requests_do_not_wait(self) -> None:
        codes: list[int] = []
        begun, over, slow = self.held_up()

        patched = mock.patch.object(work_queue, "MAX_WAIT_S", 0.1)
        with mock.patch.object(views, "build_plan_view", slow), patched:
            threads = [
                threading.Thread(
                    target=lambda: codes.append(self.app.test_client().get(HEAVY).status_code)
                )
                for _ in range(2)
            ]
            for thread in threads:
                thread.start()
            for _ in threads:
                begun.acquire(timeout=60)
            third = self.client.get(HEAVY)
            self.assertEqual((third.status_code, third.headers["Retry-After"]), (503, "2"))
            self.assertIn("Not saved: the server is busy", third.get_data(as_text=True))
            self.assertEqual(self.client.get("/procedures/").status_code, 200)
            over.set()
            for thread in threads:
                thread.join()
        self.assertEqual((codes, self.client.get(HEAVY).status_code), ([200, 200], 200))

    def test_maximum_waiting_requests(self) -> None:
        codes: list[int] = []
        begun, over, slow = self.held_up()

        def ask() -> None:
            codes.append(self.app.test_client().get(HEAVY).status_code)

        with mock.patch.object(views, "build_plan_view", slow):
            threads = [threading.Thread(target=ask) for _ in range(8)]
            for thread in threads:
                thread.start()
            begun.acquire(timeout=60)
            begun.acquire(timeout=60)
            # The ninth request does not wait, because a waiting request needs a thread. It is sent
            # when all eight are in the queue: only then is no place left to take and give back.
            places = get_context(self.app).work_queue._queued
            until = time.monotonic() + 60
            while places.acquire(blocking=False) and time.monotonic() < until:
                places.release()
                time.sleep(0.01)
            self.assertEqual(self.client.get(HEAVY).status_code, 503)
            over.set()
            for thread in threads:
                thread.join()
        self.assertEqual(codes, [200] * 8)

    def test_failed_request_frees_its_slot(self) -> None:
        self.app.config["PROPAGATE_EXCEPTIONS"] = False
        self.app.testing = False
        with (
            mock.patch.object(views, "build_plan_view", side_effect=RuntimeError("planted")),
            self.assertLogs(self.app.logger, "ERROR"),
        ):
            for _ in range(3):
                self.assertEqual(self.client.get(HEAVY).status_code, 500)
        self.assertEqual(self.client.get(HEAVY).status_code, 200)


if __name__ == "__main__":
    unittest.main()
