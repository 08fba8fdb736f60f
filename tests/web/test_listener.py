"""The socket side: bodies refused by their size before they are taken, and connections that dawdle
closed.
"""

import socket
import threading
import time
import unittest
from typing import Any
from unittest import mock

from tests.web.case import WebCase
from wisearc.web import listener
from wisearc.web.gate import ADDRESSES, addresses

MB = 1024 * 1024


class Sockets(WebCase):
    PATIENCE = 10

    def setUp(self) -> None:
        super().setUp()
        with mock.patch.object(listener, "PATIENCE_S", self.PATIENCE):
            self.server = listener.listen(self.app, 0, 4 * MB, {"/larger": 8 * MB})
        self.server.adj.cleanup_interval = 0.1
        self.server.adj.asyncore_loop_timeout = 0.1
        self.app.config[ADDRESSES] = addresses(self.server.effective_port)
        self.over = False
        thread = threading.Thread(target=self.serve)
        thread.start()
        self.addCleanup(thread.join)
        self.addCleanup(lambda: setattr(self, "over", True))

    def serve(self) -> None:
        while not self.over:
            self.server.asyncore.loop(timeout=0.1, map=self.server._map, use_poll=True, count=1)
        self.server.close()
        self.server.task_dispatcher.shutdown()

    def open(self, first: bytes) -> socket.socket:
        sent = socket.create_connection(("127.0.0.1", self.server.effective_port), timeout=8)
        self.addCleanup(sent.close)
        sent.sendall(first)
        return sent

    def head(self, path: str, long: int, more: str = "") -> bytes:
        host = f"127.0.0.1:{self.server.effective_port}"
        lines = (f"POST {path} HTTP/1.1", f"Host: {host}", f"Content-Length: {long}")
        return ("\r\n".join(lines) + f"\r\n{more}\r\n").encode()

    def answer(self, of: socket.socket) -> str:
        said = b""
        while data := of.recv(65536):
            said += data
        return said.decode()


class Listener(Sockets):
    def test_refused_before_it_is_sent(self) -> None:
        said = self.answer(self.open(self.head("/keep/read", 5 * MB)))
        self.assertIn(" 413 ", said)
        self.assertIn("larger than is taken here (at most 4 MB): nothing of it was kept", said)

    def test_refused_while_it_is_sent_and_the_answer_can_be_read(self) -> None:
        to = self.open(self.head("/keep/read", 12 * MB))
        to.sendall(b"x" * 12 * MB)
        to.shutdown(socket.SHUT_WR)
        self.assertIn(" 413 ", self.answer(to))

    def test_refused_when_its_size_was_not_said(self) -> None:
        to = self.open(b"POST /keep/read HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n\r\n")
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
                    f"GET /keep/?q={'x' * long} HTTP/1.1\r\nHost: 127.0.0.1:{at}\r\nConnection:"
                    " close\r\n\r\n".encode()
                )
            )
            self.assertIn(code, said[:30])
        self.assertIn("The address is longer than any of Wise Arc's", said)

    def test_what_is_no_request(self) -> None:
        for raw in (
            b"GET /?a=\xff HTTP/1.1\r\nHost: x\r\n\r\n",
            b"POST /keep/draft HTTP/1.1\r\nHost: x\r\nContent-Length: -5\r\n\r\n",
            b"GET / HTTP/1.1\r\nHo st: x\r\n\r\n",
        ):
            said = self.answer(self.open(raw))
            with self.subTest(raw=raw):
                self.assertIn(" 400 ", said)
                self.assertIn("What was sent cannot be read, so nothing was kept", said)

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
        while time.monotonic() - start < 8:
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
        for first in (b"", b"GET / HTTP/1.1\r\nHo", self.head("/keep/read", 1000) + b"half"):
            with self.subTest(first=first[:20]):
                self.assertLess(self.closed_within(self.open(first)), 4)

    def test_a_byte_at_a_time(self) -> None:
        to = self.open(self.head("/keep/read", 4000))
        self.assertLess(self.closed_within(to, lambda: to.sendall(b"x")), 4)

    def test_others_are_answered_meanwhile(self) -> None:
        for _ in range(150):
            self.open(b"GET / HTTP/1.1\r\nHo")
        at = self.server.effective_port
        page = self.open(
            f"GET /keep/ HTTP/1.1\r\nHost: 127.0.0.1:{at}\r\nConnection: close\r\n\r\n".encode()
        )
        self.assertIn("200 OK", self.answer(page))


if __name__ == "__main__":
    unittest.main()
