"""The HTTP server: limits on bodies, slow clients and the number of connections."""

from __future__ import annotations

import copy
import errno
import fcntl
import logging
import resource
import socket
import sys
import termios
import time
from collections.abc import Callable, Iterable, Mapping
from contextlib import suppress
from typing import Any

from msgspec import Struct
from waitress.adjustments import Adjustments
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer
from waitress.utilities import Error

from ..services.errors import is_disk_full
from .errors import describe_refusal

THREADS = 16
# An address with its headers: far larger than a joint or a search.
MAX_HEADER_BYTES = 16 * 1024
# The maximum time without data, s, and the minimum rate of a request: estimates, far from this
# machine or a shop network.
PATIENCE_S, MIN_BODY_BYTES_S = 10, 64 * 1024
# Maximum time without progress of an answer, s. After SLOW_AFTER_S an answer needs a minimum rate.
# Estimates: a phone with a bad connection is ten times as fast.
MAX_STALL_S, SLOW_AFTER_S, MIN_SEND_BYTES_S = 10.0, 30.0, 4 * 1024
# Limits for one address. Beyond them the longest idle or longest stalled connection is closed.
# Estimates.
MAX_PER_ADDRESS, MAX_STALLED = 200, 8
# After this time without progress an answer is stalled, s.
STALLED_AFTER_S = 2.0
MAX_ACCEPTED_TOGETHER = 32
# File descriptors for the data, and connections of one listener. Estimates.
RESERVED_FILES, MAX_CONNECTIONS = 200, 4000
# At the descriptor limit the listener pauses. It logs a warning once in LOG_INTERVAL_S.
PAUSE_S, LOG_INTERVAL_S = 0.25, 60.0
# The remaining data of a refused request is discarded for this time, so that the browser can show
# the reason.
LINGER_S, LINGER_BYTES = 3, 64 * 1024 * 1024
_log = logging.getLogger(__name__)


class BodyLimit(Struct, frozen=True):
    """Maximum size of a body, and the message for a larger body of an unknown client."""

    max_bytes: int
    refusal: str = ""


# Takes the path and the headers of a request with a body.
GetBodyLimit = Callable[[str, Mapping[str, str]], BodyLimit]


class Refused(Error):  # type: ignore[misc]
    """A request that the listener refuses."""

    def __init__(self, code: int, reason: str, sentence: str) -> None:
        """Create the error.

        Args:
            code: Status code.
            reason: Reason phrase.
            sentence: Message for the user.
        """
        self.code, self.reason = code, reason
        super().__init__(sentence)

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        """Return the response of the error."""
        headers = [
            ("Content-Type", "text/plain; charset=utf-8"),
            ("X-Content-Type-Options", "nosniff"),
        ]
        return f"{self.code} {self.reason}", headers, f"{self.body}\n".encode()


class Parser(HTTPRequestParser):  # type: ignore[misc]
    """Parses a request and limits its body."""

    adj: Any
    error: Any
    refusal = ""

    def parse_header(self, header_plus: bytes) -> None:
        """Parse the headers, and check the size of the body."""
        super().parse_header(header_plus)
        if self.content_length or self.chunked:
            limit = self.adj.get_body_limit(self.path, self.headers)
            self.refusal = limit.refusal
            self.adj = copy.copy(self.adj)
            # waitress refuses a body of this size.
            self.adj.max_request_body_size = limit.max_bytes + 1

    def received(self, data: bytes) -> int:
        """Process data, and check the size of the body."""
        try:
            consumed = int(super().received(data))
        except OSError as error:
            if not is_disk_full(error):
                raise
            self.error = Refused(507, "Insufficient Storage", describe_refusal(507, 0) or "")
            self.completed, consumed = True, len(data)
        if self.error and not isinstance(self.error, Refused):
            self.error = self._build_refusal(self.error)
        return consumed

    def _build_refusal(self, error: Error) -> Refused:
        if error.code == 413 and self.refusal:
            return Refused(403, "Forbidden", self.refusal)
        max_bytes = self.adj.max_request_body_size - 1
        sentence = describe_refusal(error.code, max_bytes) or describe_refusal(400, max_bytes) or ""
        return Refused(error.code, error.reason, sentence)


class Channel(HTTPChannel):  # type: ignore[misc]
    """A connection that has to keep up."""

    parser_class = Parser
    last_activity: float
    total_outbufs_len: int
    began, got = 0.0, 0
    lingers, refused = False, False
    # Start of the answer, s; bytes that the system and the client have; last progress, s.
    sent_from_s, written_bytes, received_bytes, progress_s = 0.0, 0, 0, 0.0

    @property
    def is_idle(self) -> bool:
        """Whether there is no request and no answer."""
        return not (
            self.requests or self.request is not None or self.total_outbufs_len or self.will_close
        )

    @property
    def is_sending(self) -> bool:
        """Whether a part of an answer waits for the client."""
        return bool(self.total_outbufs_len and self.sent_from_s)

    def write_soon(self, data: Any) -> int:
        """Queue data of the answer."""
        if not self.total_outbufs_len:
            self.sent_from_s = self.progress_s = time.monotonic()
            self.written_bytes = self.received_bytes = 0
        return int(super().write_soon(data))

    def _flush_some(self, do_close: bool = True) -> bool:
        before = self.total_outbufs_len
        sent = bool(super()._flush_some(do_close=do_close))
        self.written_bytes += max(0, before - self.total_outbufs_len)
        return sent

    def shut_down(self) -> None:
        """End the connection. The server loop closes it after its next event.

        A new connection could get the descriptor of a connection that is closed here. It would then
        receive an event of the old connection.
        """
        self.will_close = True
        with suppress(OSError):
            self.socket.shutdown(socket.SHUT_RDWR)

    def update_progress(self, now_s: float) -> None:
        """Update the number of bytes that the client has received.

        Args:
            now_s: Current time, s.
        """
        if self.is_sending:
            received_bytes = self.written_bytes - _count_unsent_bytes(self.socket)
            if received_bytes > self.received_bytes:
                self.received_bytes, self.progress_s = received_bytes, now_s

    def stall_s(self, now_s: float) -> float:
        """Return the time since the last progress of an answer, s, or 0 without an answer.

        Args:
            now_s: Current time, s.
        """
        return now_s - self.progress_s if self.is_sending else 0.0

    def is_too_slow(self, now_s: float) -> bool:
        """Return whether the client does not receive its answer.

        Args:
            now_s: Current time, s.
        """
        slow_s = now_s - self.sent_from_s - SLOW_AFTER_S
        return self.stall_s(now_s) > MAX_STALL_S or (
            self.is_sending and self.received_bytes < MIN_SEND_BYTES_S * slow_s
        )

    def handle_read(self) -> None:
        """Read data, and check the rate of the request."""
        if self.lingers:
            self._throw_away()
            return
        super().handle_read()
        if self.request is None:
            self.began = 0.0
        elif not self.began:
            self.began, self.got = time.time(), 0
        else:
            # The time from which the request is too slow.
            self.last_activity = min(self.last_activity, self.began + self.got / MIN_BODY_BYTES_S)

    def received(self, data: bytes) -> Any:
        """Process received data."""
        self.got += len(data)
        result = super().received(data)
        self.refused = self.refused or any(isinstance(r.error, Refused) for r in self.requests)
        return result

    def readable(self) -> bool:
        """Return whether the connection waits for data."""
        return bool(self.lingers or super().readable())

    def handle_close(self) -> None:
        """Close the connection."""
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


class Listener(TcpWSGIServer):  # type: ignore[misc]
    """A server that closes idle and stalled connections when it needs their place."""

    channel_class = Channel
    active_channels: dict[int, Channel]
    effective_port: int
    max_connections = MAX_CONNECTIONS
    # Returns the address of the client, if another listener passes connections to this one.
    get_client: Callable[[tuple[str, int]], tuple[str, int]] | None = None
    _paused_until_s, _logged_s = 0.0, -1e9

    def readable(self) -> bool:
        """Return whether the listener accepts connections."""
        return bool(super().readable()) and time.monotonic() >= self._paused_until_s

    def maintenance(self, now: float) -> None:
        """Close stalled connections."""
        super().maintenance(now)
        now_s = time.monotonic()
        stalled: dict[str, list[Channel]] = {}
        for channel in list(self.active_channels.values()):
            channel.update_progress(now_s)
            if channel.is_too_slow(now_s):
                channel.shut_down()
            elif channel.stall_s(now_s) > STALLED_AFTER_S:
                stalled.setdefault(channel.addr[0], []).append(channel)
        for channels in stalled.values():
            channels.sort(key=lambda channel: channel.progress_s)
            for channel in channels[: max(0, len(channels) - MAX_STALLED)]:
                channel.shut_down()

    def handle_accept(self) -> None:
        """Accept waiting connections."""
        # After one event several connections can wait.
        for _ in range(MAX_ACCEPTED_TOGETHER):
            if not self._accept_one():
                return

    def _accept_one(self) -> bool:
        """Accept a connection. Return whether there was one."""
        try:
            accepted = self.accept()
            if accepted is None:
                return False
            connection, address = accepted
            self.set_socket_options(connection)
            if self.get_client is not None:
                address = self.get_client(address)
        except OSError as error:
            if error.errno in (errno.EMFILE, errno.ENFILE, errno.ENOBUFS, errno.ENOMEM):
                self._pause(error)
            return False
        channels = self.active_channels.values()
        same_address = [channel for channel in channels if channel.addr[0] == address[0]]
        if len(same_address) >= MAX_PER_ADDRESS:
            _close_oldest_idle(same_address)
        if len(channels) >= self.max_connections and not _close_oldest_idle(channels):
            connection.close()
            return True
        self.channel_class(self, connection, address, self.adj, map=self._map)
        return True

    def _pause(self, error: OSError) -> None:
        """Close idle connections because no file descriptor is left, and accept again later."""
        for _ in range(20):
            if not _close_oldest_idle(self.active_channels.values()):
                break
        now = time.monotonic()
        self._paused_until_s = now + PAUSE_S
        if now - self._logged_s >= LOG_INTERVAL_S:
            self._logged_s = now
            _log.warning(
                "Cannot accept connections (%s). %d connections are open."
                " Closing idle connections.",
                error.strerror,
                len(self.active_channels),
            )


def _count_unsent_bytes(connection: socket.socket) -> int:
    """Return the number of bytes that the system holds for the client, or 0 if it is unknown."""
    try:
        count = fcntl.ioctl(connection.fileno(), termios.TIOCOUTQ, b"\0" * 4)
    except (OSError, ValueError):
        return 0
    return int.from_bytes(count, sys.byteorder)


def _close_oldest_idle(channels: Iterable[Channel]) -> bool:
    """Close the connection that has been idle longest. Return whether there was one."""
    idle = [channel for channel in channels if channel.is_idle]
    if not idle:
        return False
    min(idle, key=lambda channel: channel.last_activity).shut_down()
    return True


def _raise_file_limit() -> int:
    """Raise the limit of file descriptors. Return the maximum connections of one listener."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = 2 * MAX_CONNECTIONS + RESERVED_FILES
    if soft != resource.RLIM_INFINITY and soft < wanted:
        raised = wanted if hard == resource.RLIM_INFINITY else min(wanted, hard)
        with suppress(ValueError, OSError):
            resource.setrlimit(resource.RLIMIT_NOFILE, (raised, hard))
            soft = raised
    if soft == resource.RLIM_INFINITY:
        return MAX_CONNECTIONS
    return max(20, min(MAX_CONNECTIONS, (soft - RESERVED_FILES) // 2))


def listen(
    app: Any,
    port: int,
    get_body_limit: GetBodyLimit,
    host: str = "127.0.0.1",
    scheme: str = "http",
) -> Listener:
    """Create a listening server of an application.

    Args:
        app: WSGI application.
        port: TCP port. 0 means a free port.
        get_body_limit: Returns the limit of a body from the path and the headers.
        host: Address of this machine.
        scheme: Scheme in the browser.

    Returns:
        The server. It does not run yet.

    Raises:
        OSError: If the port is not available.
    """
    settings = Adjustments(
        host=host,
        port=port,
        threads=THREADS,
        ident=None,
        channel_timeout=PATIENCE_S,
        url_scheme=scheme,
        cleanup_interval=1,
        # `Listener` has another limit.
        connection_limit=1_000_000,
        backlog=1024,
        asyncore_use_poll=True,
        recv_bytes=131072,
        # A page is smaller. Larger answers are files.
        outbuf_overflow=8 * 1024 * 1024,
        max_request_header_size=MAX_HEADER_BYTES,
        clear_untrusted_proxy_headers=False,
    )
    settings.get_body_limit = get_body_limit
    server = Listener(app, adj=settings, sockinfo=settings.listen[0])
    # waitress has the port as text.
    server.effective_port = int(server.effective_port)
    server.max_connections = _raise_file_limit()
    return server
