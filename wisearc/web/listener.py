"""The socket side: what is too large is refused before it is taken, and a connection that dawdles
is closed.
"""

from __future__ import annotations

import copy
import socket
import time
from typing import Any

from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import create_server
from waitress.utilities import Error

from .errors import sentence_of

THREADS = 16
# an address with its head: many times what a joint or a search takes
LONGEST_HEAD = 16 * 1024
# seconds a connection may be silent, or behind the least rate at which a request is sent:
# estimates, far from what this machine or a shop's net needs
PATIENCE_S, LEAST_BYTES_S = 10, 64 * 1024
# what is sent to a connection that was refused is thrown away for so long, so that its browser gets
# to read why
LINGER_S, LINGER_BYTES = 3, 64 * 1024 * 1024


class Refused(Error):  # type: ignore[misc]
    """The refusal of a request that was not let through to the application, in a sentence."""

    def __init__(self, error: Error, most: int) -> None:
        self.code, self.reason = error.code, error.reason
        super().__init__(sentence_of(error.code, most) or sentence_of(400, most))

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        headers = [
            ("Content-Type", "text/plain; charset=utf-8"),
            ("X-Content-Type-Options", "nosniff"),
        ]
        return f"{self.code} {self.reason}", headers, f"{self.body}\n".encode()


class Parser(HTTPRequestParser):  # type: ignore[misc]
    """A request as it comes in, with the most that its address takes."""

    adj: Any
    error: Any

    def parse_header(self, header_plus: bytes) -> None:
        super().parse_header(header_plus)
        most = self.adj.larger.get(self.path, 0)
        if most:
            self.adj = copy.copy(self.adj)
            self.adj.max_request_body_size = most

    def received(self, data: bytes) -> int:
        taken = super().received(data)
        if self.error and not isinstance(self.error, Refused):
            self.error = Refused(self.error, self.adj.max_request_body_size)
        return int(taken)


class Channel(HTTPChannel):  # type: ignore[misc]
    """A connection that has to keep up."""

    parser_class = Parser
    last_activity: float
    began, got = 0.0, 0
    lingers, refused = False, False

    def handle_read(self) -> None:
        if self.lingers:
            self._throw_away()
            return
        super().handle_read()
        if self.request is None:
            self.began = 0.0
        elif not self.began:
            self.began, self.got = time.time(), 0
        else:
            # silent from when it should have sent this much by
            self.last_activity = min(self.last_activity, self.began + self.got / LEAST_BYTES_S)

    def received(self, data: bytes) -> Any:
        self.got += len(data)
        result = super().received(data)
        self.refused = self.refused or any(isinstance(r.error, Refused) for r in self.requests)
        return result

    def readable(self) -> bool:
        return bool(self.lingers or super().readable())

    def handle_close(self) -> None:
        if self.refused and not self.lingers and self.connected:
            try:
                self.socket.shutdown(socket.SHUT_WR)
            except OSError:
                super().handle_close()
                return
            self.lingers, self.will_close, self.close_when_flushed = True, False, False
            self.began, self.got = time.time(), 0
            return
        super().handle_close()

    def _throw_away(self) -> None:
        try:
            data = self.recv(self.adj.recv_bytes)
        except OSError:
            data = b""
        self.got += len(data)
        if not data or self.got > LINGER_BYTES or time.time() - self.began > LINGER_S:
            super().handle_close()


def listen(
    app: Any, port: int, largest: int, larger: dict[str, int], host: str = "127.0.0.1"
) -> Any:
    """A server of the application on this machine, or on an address of it. Raises OSError where the
    port cannot be had.

    Parameters: port, 0 for a free one; largest, bytes of a body that are taken; larger, the same
    for single addresses.
    """
    server = create_server(
        app,
        host=host,
        port=port,
        threads=THREADS,
        ident=None,
        channel_timeout=PATIENCE_S,
        cleanup_interval=2,
        connection_limit=1000,
        asyncore_use_poll=True,
        recv_bytes=131072,
        max_request_body_size=largest,
        max_request_header_size=LONGEST_HEAD,
        clear_untrusted_proxy_headers=False,
    )
    server.channel_class = Channel
    server.adj.larger = larger
    return server
