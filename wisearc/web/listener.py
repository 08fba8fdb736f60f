"""The socket side: what is too large or not invited is refused before it is taken, a connection
that dawdles either way is closed, and there is always one more connection to be had.
"""

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
from dataclasses import dataclass
from typing import Any

from waitress.adjustments import Adjustments
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer
from waitress.utilities import Error

from .errors import sentence_of

THREADS = 16
# an address with its head: many times what a joint or a search takes
LONGEST_HEAD = 16 * 1024
# seconds a connection may be silent, or behind the least rate at which a request is sent:
# estimates, far from what this machine or a shop's net needs
PATIENCE_S, LEAST_BYTES_S = 10, 64 * 1024
# seconds an answer may not be taken at all, and from when on it is to be taken at this rate:
# estimates, a telephone at the edge of a net takes ten times that
STALLED_S, SLOW_AFTER_S, LEAST_TAKEN_BYTES_S = 10.0, 30.0, 4 * 1024
# so many connections from one address, beyond which the one that was idle longest goes; so many
# of one address that do not take their answers, beyond which the one that stalled first goes
MOST_OF_ONE, MOST_STALLED = 200, 8
# a connection that took nothing of its answer for so long is stalled
NOT_TAKEN_S = 2.0
# connections that are taken in one go
AT_ONCE = 32
# descriptors that are left for the data, and how many connections at the most. Estimates
SPARE_FILES, MOST_CONNECTIONS = 200, 4000
# at the limit of descriptors nothing is taken for so long, and it is said once in so long
PAUSE_S, SAID_EVERY_S = 0.25, 60.0
# what is sent to a connection that was refused is thrown away for so long, so that its browser gets
# to read why
LINGER_S, LINGER_BYTES = 3, 64 * 1024 * 1024
_log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Admitted:
    """What is taken of a request by its head: how many bytes of a body, and what is said of more
    where that is not its size.
    """

    most: int
    refusal: str = ""


# told the path and the head of a request that has a body
Admit = Callable[[str, Mapping[str, str]], Admitted]


class Refused(Error):  # type: ignore[misc]
    """The refusal of a request that was not let through to the application, in a sentence."""

    def __init__(self, code: int, reason: str, sentence: str) -> None:
        self.code, self.reason = code, reason
        super().__init__(sentence)

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        headers = [
            ("Content-Type", "text/plain; charset=utf-8"),
            ("X-Content-Type-Options", "nosniff"),
        ]
        return f"{self.code} {self.reason}", headers, f"{self.body}\n".encode()


class Parser(HTTPRequestParser):  # type: ignore[misc]
    """A request as it comes in, with the most that is taken of it."""

    adj: Any
    error: Any
    refusal = ""

    def parse_header(self, header_plus: bytes) -> None:
        super().parse_header(header_plus)
        if self.content_length or self.chunked:
            admitted = self.adj.admit(self.path, self.headers)
            self.refusal = admitted.refusal
            self.adj = copy.copy(self.adj)
            # from here on it is too much
            self.adj.max_request_body_size = admitted.most + 1

    def received(self, data: bytes) -> int:
        try:
            taken = int(super().received(data))
        except OSError as error:
            if error.errno not in (errno.ENOSPC, errno.EDQUOT):
                raise
            self.error = Refused(507, "Insufficient Storage", sentence_of(507, 0) or "")
            self.completed, taken = True, len(data)
        if self.error and not isinstance(self.error, Refused):
            self.error = self._refused(self.error)
        return taken

    def _refused(self, error: Error) -> Refused:
        if error.code == 413 and self.refusal:
            return Refused(403, "Forbidden", self.refusal)
        most = self.adj.max_request_body_size - 1
        said = sentence_of(error.code, most) or sentence_of(400, most) or ""
        return Refused(error.code, error.reason, said)


class Channel(HTTPChannel):  # type: ignore[misc]
    """A connection that has to keep up."""

    parser_class = Parser
    last_activity: float
    total_outbufs_len: int
    began, got = 0.0, 0
    lingers, refused = False, False
    # since when an answer is being sent, how much of it was given to the system, how much the other
    # side has of that, and when that grew last
    sending, given, taken, taken_at = 0.0, 0, 0, 0.0

    @property
    def is_idle(self) -> bool:
        """Whether nothing goes on."""
        return not (
            self.requests or self.request is not None or self.total_outbufs_len or self.will_close
        )

    @property
    def is_sending(self) -> bool:
        """Whether something of an answer waits to be taken."""
        return bool(self.total_outbufs_len and self.sending)

    def write_soon(self, data: Any) -> int:
        if not self.total_outbufs_len:
            self.sending = self.taken_at = time.monotonic()
            self.given = self.taken = 0
        return int(super().write_soon(data))

    def _flush_some(self, do_close: bool = True) -> bool:
        before = self.total_outbufs_len
        sent = bool(super()._flush_some(do_close=do_close))
        self.given += max(0, before - self.total_outbufs_len)
        return sent

    def end(self) -> None:
        """End the connection. It is closed by its own event, which follows at once: closed here,
        its number could be another's by the time that an event of its comes.
        """
        self.will_close = True
        with suppress(OSError):
            self.socket.shutdown(socket.SHUT_RDWR)

    def look(self, now: float) -> None:
        """See how much of an answer the other side has taken: what the system holds for it is not
        taken yet.
        """
        if self.is_sending:
            taken = self.given - _held(self.socket)
            if taken > self.taken:
                self.taken, self.taken_at = taken, now

    def not_taken_s(self, now: float) -> float:
        """For how long nothing of an answer was taken, s; 0 where there is none."""
        return now - self.taken_at if self.is_sending else 0.0

    def is_too_slow(self, now: float) -> bool:
        """Whether an answer is not taken, or so slowly that it never will be."""
        slow_s = now - self.sending - SLOW_AFTER_S
        return self.not_taken_s(now) > STALLED_S or (
            self.is_sending and self.taken < LEAST_TAKEN_BYTES_S * slow_s
        )

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


class Listener(TcpWSGIServer):  # type: ignore[misc]
    """A server that has always one more connection to give."""

    channel_class = Channel
    active_channels: dict[int, Channel]
    effective_port: int
    most = MOST_CONNECTIONS
    _paused_until, _said = 0.0, -1e9

    def readable(self) -> bool:
        return bool(super().readable()) and time.monotonic() >= self._paused_until

    def maintenance(self, now: float) -> None:
        super().maintenance(now)
        at = time.monotonic()
        stalled: dict[str, list[Channel]] = {}
        for channel in list(self.active_channels.values()):
            channel.look(at)
            if channel.is_too_slow(at):
                channel.end()
            elif channel.not_taken_s(at) > NOT_TAKEN_S:
                stalled.setdefault(channel.addr[0], []).append(channel)
        for channels in stalled.values():
            channels.sort(key=lambda one: one.taken_at)
            for channel in channels[: max(0, len(channels) - MOST_STALLED)]:
                channel.end()

    def handle_accept(self) -> None:
        # as many as wait, so that a page does not wait behind each of them
        for _ in range(AT_ONCE):
            if not self._accept_one():
                return

    def _accept_one(self) -> bool:
        """Take a connection that waits. Returns whether there was one."""
        try:
            accepted = self.accept()
            if accepted is None:
                return False
            connection, address = accepted
            self.set_socket_options(connection)
        except OSError as error:
            if error.errno in (errno.EMFILE, errno.ENFILE, errno.ENOBUFS, errno.ENOMEM):
                self._at_the_limit(error)
            return False
        mine = [one for one in self.active_channels.values() if one.addr[0] == address[0]]
        if len(mine) >= MOST_OF_ONE:
            _end_longest_idle(mine)
        if len(self.active_channels) >= self.most and not _end_longest_idle(
            self.active_channels.values()
        ):
            connection.close()
            return True
        self.channel_class(self, connection, address, self.adj, map=self._map)
        return True

    def _at_the_limit(self, error: OSError) -> None:
        """No descriptor is left: some that are idle are ended, and it is tried again in a while."""
        for _ in range(20):
            if not _end_longest_idle(self.active_channels.values()):
                break
        now = time.monotonic()
        self._paused_until = now + PAUSE_S
        if now - self._said >= SAID_EVERY_S:
            self._said = now
            _log.warning(
                "No more connections can be taken just now (%s); %d are open. Those that are idle"
                " are ended.",
                error.strerror,
                len(self.active_channels),
            )


def _held(connection: socket.socket) -> int:
    """How many bytes the system holds that the other side has not taken, 0 where it does not
    say.
    """
    try:
        told = fcntl.ioctl(connection.fileno(), termios.TIOCOUTQ, b"\0" * 4)
    except (OSError, ValueError):
        return 0
    return int.from_bytes(told, sys.byteorder)


def _end_longest_idle(channels: Iterable[Channel]) -> bool:
    """End the connection that has been idle longest. Returns whether there was one."""
    idle = [one for one in channels if one.is_idle]
    if not idle:
        return False
    min(idle, key=lambda one: one.last_activity).end()
    return True


def _more_files() -> int:
    """See that as many descriptors are allowed as this user may have. Returns how many connections
    there can be, on each of two listeners.
    """
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = 2 * MOST_CONNECTIONS + SPARE_FILES
    if soft != resource.RLIM_INFINITY and soft < wanted:
        more = wanted if hard == resource.RLIM_INFINITY else min(wanted, hard)
        with suppress(ValueError, OSError):
            resource.setrlimit(resource.RLIMIT_NOFILE, (more, hard))
            soft = more
    if soft == resource.RLIM_INFINITY:
        return MOST_CONNECTIONS
    return max(20, min(MOST_CONNECTIONS, (soft - SPARE_FILES) // 2))


def listen(app: Any, port: int, admit: Admit, host: str = "127.0.0.1") -> Listener:
    """A server of the application on this machine, or on an address of it. Raises OSError where the
    port cannot be had.

    Parameters: port, 0 for a free one; admit, says what is taken of a request by its head.
    """
    settings = Adjustments(
        host=host,
        port=port,
        threads=THREADS,
        ident=None,
        channel_timeout=PATIENCE_S,
        cleanup_interval=1,
        # the listener has a limit of its own, which ends what is idle
        connection_limit=1_000_000,
        backlog=1024,
        asyncore_use_poll=True,
        recv_bytes=131072,
        # a page is never so large; what is larger is sent from its file
        outbuf_overflow=8 * 1024 * 1024,
        max_request_header_size=LONGEST_HEAD,
        clear_untrusted_proxy_headers=False,
    )
    settings.admit = admit
    server = Listener(app, adj=settings, sockinfo=settings.listen[0])
    # the system says it as text
    server.effective_port = int(server.effective_port)
    server.most = _more_files()
    return server
