"""A device listened to: JSON lines from a port of this machine, in a thread of its own, called
again where it hangs up.

Only this machine is asked: a device on the shop's network cannot make the product call elsewhere.
"""

from __future__ import annotations

import os
import socket
import threading
import time
from collections.abc import Iterable
from pathlib import Path

HOST = "127.0.0.1"
# a device that says nothing for so long is silent; asked again after so long
SILENT_S, AGAIN_S = 4.0, 2.0
MAX_LINE_LENGTH = 4096
# lines in a row that are no reading before it is said
NONSENSE = 3


class DeviceReader:
    """Listens at a port until it is closed. How it stands: "calling", "reading", "silent", "gone",
    or what a kind of device tells besides; in words.
    """

    device = "device"

    def __init__(self, port: int) -> None:
        self.port = port
        self._state, self._words = "calling", f"Connecting to the {self.device}."
        self._guard, self._closed = threading.Lock(), threading.Event()
        self._last_heard = time.monotonic()
        self._thread = threading.Thread(target=self._listen, daemon=True)

    def close(self, wait: bool = False) -> None:
        """Stop listening. Parameters: wait, until it has stopped."""
        self._closed.set()
        if wait:
            self._thread.join(timeout=2 * AGAIN_S)

    def _anew(self) -> None:
        """The device was reached: it begins to count anew."""
        raise NotImplementedError

    def _lines(self, lines: list[bytes]) -> None:
        """Take whole lines that came."""
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
                with socket.create_connection((HOST, self.port), timeout=AGAIN_S) as line:
                    self._last_heard = time.monotonic()
                    self._anew()
                    self._set("reading", "")
                    self._take(line)
                again = (
                    "Wise Arc tries again every 2 s. The clock continues, and the readings so "
                    "far are saved."
                )
                self._set("gone", f"The {self.device} has disconnected. {again}")
            except OSError:
                again = "Wise Arc tries again every 2 s. The clock continues."
                self._set(
                    "gone",
                    f"There is no {self.device} at port {self.port} of this machine. {again}",
                )
            self._closed.wait(AGAIN_S)

    def _take(self, line: socket.socket) -> None:
        line.settimeout(0.5)
        rest = b""
        while not self._closed.is_set():
            try:
                came = line.recv(16_384)
            except TimeoutError:
                continue
            if not came:
                return
            *lines, rest = (rest + came).split(b"\n")
            if len(rest) > MAX_LINE_LENGTH:
                lines, rest = [*lines, rest[:80]], b""
            if lines:
                self._lines(lines)

    def _set(self, state: str, words: str) -> None:
        with self._guard:
            self._state, self._words = state, words

    def _quiet_s(self) -> float:
        return time.monotonic() - self._last_heard


def append_rows(file: Path, header: str, rows: Iterable[str], most_files: int) -> None:
    """Add rows to a file that is its owner's alone, made with its header where it is not there; of
    its folder the newest are kept. Raises OSError.
    """
    if not file.exists():
        file.parent.mkdir(mode=0o700, exist_ok=True)
        for old in sorted(file.parent.glob("*.csv"), key=lambda p: p.stat().st_mtime)[:-most_files]:
            old.unlink(missing_ok=True)
        with os.fdopen(
            os.open(file, os.O_CREAT | os.O_WRONLY | os.O_APPEND, 0o600), "a", encoding="ascii"
        ) as new:
            new.write(header + "\n")
    with file.open("a", encoding="ascii") as out:
        out.write("".join(f"{row}\n" for row in rows))
