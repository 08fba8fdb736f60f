"""The socket: bodies refused by size before reading, and slow connections closed."""

import errno
import socket
import tempfile
import threading
import time
import unittest
from collections.abc import Mapping
from pathlib import Path
from typing import Any
from unittest import mock

from tests.web.case import WebCase
from wisearc.web import listener
from wisearc.web.context import get_context
from wisearc.web.gate import ADDRESSES, limit_bodies, list_addresses
from wisearc.web.weld.write import MAX_LOG_BYTES

MB = 1024 * 1024


class Sockets(WebCase):
    PATIENCE = 10

    def setUp(self) -> None:
        super().setUp()
        with mock.patch.object(listener, "PATIENCE_S", self.PATIENCE):
            self.server = listener.listen(self.app, 0, self.admit)
        self.server.adj.cleanup_interval = 0.1
        self.server.adj.asyncore_loop_timeout = 0.1
        self.app.config[ADDRESSES] = list_addresses(self.server.effective_port)
        self.over = False
        thread = threading.Thread(target=self.serve)
        thread.start()
        self.addCleanup(thread.join)
        self.addCleanup(lambda: setattr(self, "over", True))

    def admit(self, path: str, head: Mapping[str, str]) -> listener.BodyLimit:
        return listener.BodyLimit(8 * MB if path == "/larger" else 4 * MB)

    def serve(self) -> None:
        while not self.over:
            self.server.asyncore.loop(timeout=0.1, map=self.server._map, use_poll=True, count=1)
        self.server.close()
        self.server.task_dispatcher.shutdown()

    def open(self, first: bytes) -> socket.socket:
        sent = socket.create_connection(("127.0.0.1", self.server.effective_port), timeout=30)
        self.addCleanup(sent.close)
        sent.sendall(first)
        return sent

    def head(self, path: str, long: int, more: str = "") -> bytes:
        host = f"127.0.0.1:{self.server.effective_port}"
        lines = (f"POST {path} HTTP/1.1", f"Host: {host}", f"Content-Length: {long}")
        return ("\r\n".join(lines) + f"\r\n{more}\r\n").encode()

    def asks_for_a_page(self) -> bytes:
        host = f"127.0.0.1:{self.server.effective_port}"
        return f"GET /procedures/ HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n".encode()

    def page(self) -> socket.socket:
        return self.open(self.asks_for_a_page())

    def answer(self, of: socket.socket) -> str:
        said = b""
        while data := of.recv(65536):
            said += data
        return said.decode()


class Listener(Sockets):
    def test_port_is_a_number(self) -> None:
        """Port 80 is missing in the address of a page."""
        self.assertIsInstance(self.server.effective_port, int)
        self.assertEqual(list_addresses(80)[0], "http://127.0.0.1")
        self.app.config[ADDRESSES] = list_addresses(80)
        for host, code in (("127.0.0.1", 200), ("localhost:80", 200), ("127.0.0.1:81", 421)):
            done = self.client.get("/reference/", headers={"Host": host})
            self.assertEqual(done.status_code, code, host)

    def test_refused_before_it_is_sent(self) -> None:
        said = self.answer(self.open(self.head("/procedures/read", 5 * MB)))
        self.assertIn(" 413 ", said)
        self.assertIn("the request is too large (maximum 4 MB)", said)

    def test_refused_while_it_is_sent_and_the_answer_can_be_read(self) -> None:
        to = self.open(self.head("/procedures/read", 12 * MB))
        to.sendall(b"x" * 12 * MB)
        to.shutdown(socket.SHUT_WR)
        self.assertIn(" 413 ", self.answer(to))

    def test_request_without_length_is_refused(self) -> None:
        to = self.open(
            b"POST /procedures/read HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n\r\n"
        )
        piece = b"100000\r\n" + b"x" * MB + b"\r\n"
        for _ in range(6):
            to.sendall(piece)
        to.shutdown(socket.SHUT_WR)
        self.assertIn(" 413 ", self.answer(to))

    def test_an_address_that_is_too_long(self) -> None:
        for long, code in ((9_000, " 200 "), (17_000, " 431 ")):
            at = self.server.effective_port
            said = self.answer(
                self.open(
                    f"GET /procedures/?q={'x' * long} HTTP/1.1\r\nHost: 127.0.0.1:{at}\r\n"
                    "Connection:"
                    " close\r\n\r\n".encode()
                )
            )
            self.assertIn(code, said[:30])
        self.assertIn("the address is too long", said)

    def test_malformed_requests(self) -> None:
        for raw in (
            b"GET /?a=\xff HTTP/1.1\r\nHost: x\r\n\r\n",
            b"POST /procedures/draft HTTP/1.1\r\nHost: x\r\nContent-Length: -5\r\n\r\n",
            b"GET / HTTP/1.1\r\nHo st: x\r\n\r\n",
        ):
            said = self.answer(self.open(raw))
            with self.subTest(raw=raw):
                self.assertIn(" 400 ", said)
                self.assertIn("the request cannot be read", said)

    def test_a_larger_one_where_it_is_wanted(self) -> None:
        to = self.open(self.head("/larger", 5 * MB, "Connection: close\r\n") + b"x" * 5 * MB)
        self.assertIn(" 404 ", self.answer(to))
        self.assertIn(" 413 ", self.answer(self.open(self.head("/larger", 9 * MB))))


class Dawdling(Sockets):
    PATIENCE = 1

    def closed_within(self, of: socket.socket, act: Any = None) -> float:
        """Seconds until the other side closes it."""
        start = time.monotonic()
        of.settimeout(0.1)
        while time.monotonic() - start < 40:
            try:
                if act:
                    act()
                if of.recv(100) == b"":
                    break
            except TimeoutError:
                continue
            except OSError:
                break
        return time.monotonic() - start

    def test_half_open(self) -> None:
        for first in (b"", b"GET / HTTP/1.1\r\nHo", self.head("/procedures/read", 1000) + b"half"):
            with self.subTest(first=first[:20]):
                self.assertLess(self.closed_within(self.open(first)), 30)

    def test_a_byte_at_a_time(self) -> None:
        to = self.open(self.head("/procedures/read", 4000))
        self.assertLess(self.closed_within(to, lambda: to.sendall(b"x")), 30)

    def test_other_requests_are_answered_during_a_slow_one(self) -> None:
        for _ in range(150):
            self.open(b"GET / HTTP/1.1\r\nHo")
        page = self.page()
        self.assertIn("200 OK", self.answer(page))


class StalledReaders(Sockets):
    """Clients that do not read their answers."""

    def setUp(self) -> None:
        self.large = tempfile.NamedTemporaryFile()  # noqa: SIM115
        self.addCleanup(self.large.close)
        self.large.truncate(24 * MB)
        super().setUp()
        fast = {"MAX_STALL_S": 1.0, "STALLED_AFTER_S": 0.3, "SLOW_AFTER_S": 0.5}
        for name, value in fast.items():
            patched = mock.patch.object(listener, name, value)
            patched.start()
            self.addCleanup(patched.stop)

    def serve(self) -> None:
        plain = self.app.wsgi_app

        def application(environ: dict[str, Any], start: Any) -> Any:
            if environ["PATH_INFO"] == "/file":
                start("200 OK", [("Content-Length", str(24 * MB))])
                return environ["wsgi.file_wrapper"](Path(self.large.name).open("rb"))
            if environ["PATH_INFO"] == "/pieces":
                start("200 OK", [("Content-Length", str(24 * MB))])
                return (b"x" * MB for _ in range(24))
            return plain(environ, start)

        self.server.application = application
        taken = self.server.accept

        def accept() -> Any:
            self.server.total += 1
            return taken()

        self.server.total, self.server.accept = 0, accept
        super().serve()

    def ask(self, path: str) -> socket.socket:
        at = self.server.effective_port
        sent = socket.socket()
        # a small window, so that little of it is on its way
        sent.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
        sent.settimeout(30)
        sent.connect(("127.0.0.1", int(at)))
        self.addCleanup(sent.close)
        sent.sendall(
            f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1:{at}\r\nConnection: close\r\n\r\n".encode()
        )
        return sent

    def channels(self) -> int:
        return len(self.server.active_channels)

    def wait_for(self, fewer: int, seconds: float = 30.0) -> int:
        until = time.monotonic() + seconds
        while self.channels() > fewer and time.monotonic() < until:
            time.sleep(0.05)
        return self.channels()

    def test_twenty_stalled_readers_do_not_block_pages(self) -> None:
        for path in ("/file", "/pieces"):
            with self.subTest(path):
                # The page does not wait until the readers are closed for their age.
                with (
                    mock.patch.object(listener, "MAX_STALL_S", 60.0),
                    mock.patch.object(listener, "SLOW_AFTER_S", 60.0),
                ):
                    for _ in range(20):
                        self.ask(path)
                    self.assertIn("200 OK", self.answer(self.page()))
                    self.assertGreater(self.channels(), 0)
                self.assertEqual(self.wait_for(0), 0)

    def test_maximum_stalled_readers_per_address(self) -> None:
        with mock.patch.object(listener, "MAX_STALL_S", 60.0):
            for _ in range(12):
                self.ask("/file")
            until = time.monotonic() + 30
            while self.server.total < 12 and time.monotonic() < until:
                time.sleep(0.02)
            self.assertEqual(self.wait_for(8), 8)
            time.sleep(0.5)
            self.assertEqual(self.channels(), 8)

    def test_slow_client_gets_the_complete_file(self) -> None:
        """The send buffer lasts longer than the maximum stall."""
        to, got, began = self.ask("/file"), 0, time.monotonic()
        while piece := to.recv(256 * 1024):
            got += len(piece)
            # A quarter of the system buffer in 3 s.
            if time.monotonic() - began < 3:
                time.sleep(len(piece) / (0.25 * MB))
        self.assertGreater(got, 24 * MB)

    def test_reader_below_the_minimum_rate_is_closed(self) -> None:
        with (
            mock.patch.object(listener, "MAX_STALL_S", 60.0),
            mock.patch.object(listener, "MIN_SEND_BYTES_S", 4 * MB),
        ):
            to, until = self.ask("/file"), time.monotonic() + 30
            to.recv(2048)
            while self.channels() and time.monotonic() < until:
                to.recv(2048)
                time.sleep(0.05)
            self.assertEqual(self.channels(), 0)


class Connections(Sockets):
    # Longer than a page waits here: a blocked page would not be answered.
    PATIENCE = 60

    def test_idle_connections_do_not_block_pages(self) -> None:
        for _ in range(450):
            self.open(b"")
        page = self.page()
        self.assertIn("200 OK", self.answer(page))
        self.assertLessEqual(len(self.server.active_channels), listener.MAX_PER_ADDRESS)

    def test_maximum_number_of_connections(self) -> None:
        self.server.max_connections = 5
        idle = [self.open(b"") for _ in range(5)]
        time.sleep(0.3)
        page = self.page()
        self.assertIn("200 OK", self.answer(page))
        # The longest idle connection was closed.
        self.assertEqual(idle[0].recv(1), b"")

    def test_limit_of_file_descriptors(self) -> None:
        idle = self.open(b"")
        time.sleep(0.2)
        tried = mock.Mock(side_effect=OSError(errno.EMFILE, "Too many open files"))
        with (
            mock.patch.object(self.server, "accept", tried),
            self.assertLogs("wisearc.web.listener", "WARNING") as said,
        ):
            later = self.open(b"")
            self.assertEqual(idle.recv(1), b"")
            time.sleep(1.2)
            # It tries several times and logs once.
            self.assertLessEqual(tried.call_count, 8)
        self.assertEqual(len(said.output), 1)
        self.assertIn("Cannot accept connections", said.output[0])
        later.sendall(self.asks_for_a_page())
        self.assertIn("200 OK", self.answer(later))

    def test_body_on_a_full_disk(self) -> None:
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch("waitress.receiver.FixedStreamReceiver.received", side_effect=full):
            said = self.answer(self.open(self.head("/procedures/read", MB) + b"x" * 1000))
        self.assertIn(" 507 ", said)
        self.assertIn("Not saved: the disk is full", said)


class BodyLimits(Sockets):
    """Limits of bodies, from the headers alone."""

    def admit(self, path: str, head: Mapping[str, str]) -> listener.BodyLimit:
        return limit_bodies(self.app, self.beyond)(path, head)

    beyond = False

    def send(self, more: str = "", path: str = "/weld/log", long: int = 300 * MB) -> str:
        head = self.head(path, long, more + "Connection: close\r\n")
        return self.answer(self.open(head)).partition("\r\n")[0]

    def test_unknown_device_cannot_send_a_large_body(self) -> None:
        self.beyond = True
        devices = get_context(self.app).devices
        name = self.app.config["SESSION_COOKIE_NAME"].replace("wisearc-", "wisearc-device-")
        self.assertIn(" 403 ", self.send())
        self.assertIn(" 403 ", self.send(f"Cookie: {name}=made up\r\n"))
        self.assertIn(" 403 ", self.send("Cookie: odd\r\n", "/let-in", 16 * 1024 + 1))
        said = self.answer(self.open(self.head("/weld/log", 300 * MB)))
        self.assertIn("this device is not paired", said)
        secret = devices.pair(devices.code().digits, "tablet", "a")
        let_in = limit_bodies(self.app, True)("/weld/log", {"COOKIE": f"{name}={secret}"})
        self.assertEqual((let_in.max_bytes, let_in.refusal), (MAX_LOG_BYTES, ""))
        devices.revoke(1)
        self.assertIn(" 403 ", self.send(f"Cookie: {name}={secret}\r\n"))

    def test_forwarded_and_cross_site_requests(self) -> None:
        for more in (
            "X-Forwarded-For: 10.0.0.9\r\n",
            "X-Somebody-Client-Ip: 10.0.0.9\r\n",
            "Via: 1.1 a\r\n",
            "Origin: http://elsewhere.example\r\n",
            "Sec-Fetch-Site: cross-site\r\n",
        ):
            with self.subTest(more):
                self.assertIn(" 403 ", self.send(more))
        admit = limit_bodies(self.app)
        own = f"http://127.0.0.1:{self.server.effective_port}"
        for head in ({}, {"HOST": own[7:], "ORIGIN": own}):
            self.assertEqual(
                admit("/shop/import", {"HOST": "localhost", **head}).max_bytes, 256 * MB
            )
        self.assertEqual(admit("/procedures/draft", {"HOST": "localhost"}).max_bytes, 512 * 1024)

    def test_body_of_unknown_size(self) -> None:
        self.beyond = True
        to = self.open(
            b"POST /weld/log HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n\r\n"
            + b"8000\r\n"
            + b"x" * 0x8000
            + b"\r\n"
        )
        self.assertIn(" 403 ", self.answer(to))


if __name__ == "__main__":
    unittest.main()
