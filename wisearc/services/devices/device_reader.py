"""A reader for a device: JSON lines from a local port, in a separate thread, with reconnection.

Only this machine is contacted, so that a device on the network cannot direct the product elsewhere.
"""

from __future__ import annotations

import os
import socket
import threading
import time
from collections.abc import Iterable
from pathlib import Path

HOST = "127.0.0.1"
# A device without output for this time is silent; a lost one is contacted again after this time.
SILENT_S, RETRY_S = 4.0, 2.0
MAX_LINE_LENGTH = 4096
# The number of consecutive invalid lines before a report.
NONSENSE = 3


class DeviceReader:
    """A reader of a port until it is closed.

    State: "calling", "reading", "silent", "gone", or one of the kind of device; with a text.
    """

    device = "device"

    def __init__(self, port: int) -> None:
        """Start to read a port."""
        self.port = port
        self._state, self._words = "calling", f"Connecting to the {self.device}."
        self._guard, self._closed = threading.Lock(), threading.Event()
        self._last_reading_s = time.monotonic()
        self._thread = threading.Thread(target=self._listen, daemon=True)

    def close(self, wait: bool = False) -> None:
        """Stop reading.

        Args:
            wait: Whether to wait until it has stopped.
        """
        self._closed.set()
        with self._guard:
            # Lines in progress are saved, and no later ones.
            pass
        if wait:
            self._thread.join(timeout=2 * RETRY_S)

    def _reset(self) -> None:
        """Reset the counters after a connection."""
        raise NotImplementedError

    def _lines(self, lines: list[bytes]) -> None:
        """Process complete lines."""
        raise NotImplementedError

    def _listen(self) -> None:
        try:
            self._connect()
        except BaseException:
            self._set(
                "gone",
                f"Reading the {self.device} failed: Wise Arc has an error. The readings so far are"
                " saved. Enter the port again.",
            )
            raise

    def _connect(self) -> None:
        while not self._closed.is_set():
            try:
                with socket.create_connection((HOST, self.port), timeout=RETRY_S) as line:
                    self._last_reading_s = time.monotonic()
                    self._reset()
                    self._set("reading", "")
                    self._take(line)
                retry_text = (
                    "Wise Arc tries again every 2 s. The clock continues, and the readings so "
                    "far are saved."
                )
                self._set("gone", f"The {self.device} has disconnected. {retry_text}")
            except OSError:
                retry_text = "Wise Arc tries again every 2 s. The clock continues."
                self._set(
                    "gone",
                    f"There is no {self.device} at port {self.port} of this machine. {retry_text}",
                )
            self._closed.wait(RETRY_S)

    def _take(self, line: socket.socket) -> None:
        line.settimeout(0.5)
        rest = b""
        while not self._closed.is_set():
            try:
                received = line.recv(16_384)
            except TimeoutError:
                continue
            if not received:
                return
            *lines, rest = (rest + received).split(b"\n")
            if len(rest) > MAX_LINE_LENGTH:
                lines, rest = [*lines, rest[:80]], b""
            if lines:
                self._lines(lines)

    def _set(self, state: str, text: str) -> None:
        with self._guard:
            self._state, self._words = state, text

    def _quiet_s(self) -> float:
        return time.monotonic() - self._last_reading_s


def append_rows(file: Path, header: str, rows: Iterable[str], max_files: int) -> None:
    """Append rows to a file with a single writer, which is created with its header.

    Older files of the folder are deleted.

    Args:
        file: The file.
        header: Its header line.
        rows: The rows.
        max_files: Maximum number of files.

    Raises:
        OSError: The file cannot be written.
    """
    if not file.exists():
        file.parent.mkdir(mode=0o700, exist_ok=True)
        for old in sorted(file.parent.glob("*.csv"), key=lambda p: p.stat().st_mtime)[:-max_files]:
            old.unlink(missing_ok=True)
        with os.fdopen(
            os.open(file, os.O_CREAT | os.O_WRONLY | os.O_APPEND, 0o600), "a", encoding="ascii"
        ) as new:
            new.write(header + "\n")
    with file.open("a", encoding="ascii") as out:
        out.write("".join(f"{row}\n" for row in rows))
