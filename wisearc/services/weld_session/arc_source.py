"""A power source listened to: JSON lines from a port of this machine, summed as they come, and kept
in a file beside the book as an arc log.
"""

from __future__ import annotations

import contextlib
import json
import math
import threading
import time
from collections.abc import Callable, Mapping
from pathlib import Path

from msgspec import Struct

from ...core.arc_log.arc_log import ArcLog
from ...core.arc_log.limits import Ends
from ...core.arc_log.live import Live, Row
from ...core.arc_log.readings import MAX_CURRENT_A, MAX_TIME_S
from ..devices.device_reader import NONSENSE, SILENT_S, DeviceReader, append_rows

FOLDER = "traces"
HEADER = "time_s,current_a,voltage_v,gas"
MAX_FILES, MAX_BYTES = 60, 200_000_000
# how many rows a page is given at once, the newest
MAX_PAGE_ROWS = 1000


class Standing(Struct, frozen=True):
    """How a source stands ("none", "calling", "reading", "silent", "gone", "nonsense"), in words;
    what it came to so far; rows since those that were asked after.
    """

    state: str
    words: str
    live: Live
    rows: list[Row]


class Source(DeviceReader):
    """Listens to one power source for one run, in a thread of its own, until it is closed."""

    device = "power source"

    def __init__(
        self,
        port: int,
        began: float,
        file: Path,
        usual_v: float,
        clock: Callable[[], float] = time.time,
    ) -> None:
        super().__init__(port)
        self._began, self._file, self._clock = began, file, clock
        self._live, self._wrong = Live(usual_v=usual_v), 0
        self._offset: float | None = None
        for row in read_trace(file):
            self._live.take(row)
        self._thread.start()

    def standing(self, after_s: float) -> Standing:
        """How it stands, with the rows after a time."""
        with self._guard:
            rows = [row for row in self._live.tail if row[0] > after_s][-MAX_PAGE_ROWS:]
            found = Standing(self._state, self._words, self._live, rows)
        since = self._quiet_s()
        if found.state == "reading" and since > SILENT_S:
            words = (
                f"The power source has sent nothing for {since:.0f} s. Check its cable. The "
                "clock continues."
            )
            return Standing("silent", words, found.live, found.rows)
        return found

    def looked_at(self, held: Mapping[str, Ends]) -> ArcLog | None:
        """The last seconds read as a log, or None."""
        with self._guard:
            return self._live.looked_at(held)

    def _anew(self) -> None:
        self._offset = None

    def _lines(self, lines: list[bytes]) -> None:
        rows = [row for row in map(self._row, lines) if row is not None]
        self._wrong = 0 if rows else self._wrong + len(lines)
        if self._wrong >= NONSENSE:
            words = (
                "The data at that port is not from a power source: it needs time_s and "
                "current_a, one reading per line. Check the port."
            )
            self._set("nonsense", words)
        if rows:
            self._keep(rows)

    def _row(self, raw: bytes) -> Row | None:
        """A line as a reading, or None for one that is none."""
        try:
            data = json.loads(raw)
            values = [data["time_s"], data["current_a"], data.get("voltage_v"), data.get("gas")]
            if (
                any(isinstance(v, bool) or (v is not None and not math.isfinite(v)) for v in values)
                or None in values[:2]
            ):
                return None
            at, amps = float(values[0]), float(values[1])
        except (ValueError, TypeError, KeyError, AttributeError, RecursionError, OverflowError):
            return None
        if not (0 <= at <= MAX_TIME_S and abs(amps) <= MAX_CURRENT_A):
            return None
        if self._offset is None:
            self._offset = max(0.0, self._clock() - self._began) - at
        volts, gas = (None if v is None else float(v) for v in values[2:])
        return round(at + self._offset, 3), amps, volts, gas

    def _keep(self, rows: list[Row]) -> None:
        self._last_heard = time.monotonic()
        with self._guard:
            before = self._live.rows
            last = self._live.last[0] if self._live.last else -math.inf
            for row in rows:
                self._live.take(row)
            self._state, self._words = "reading", ""
            new = [row for row in rows if row[0] > last] if self._live.rows > before else []
        # where the disk is full or gone what is seen goes on, the book says so where it is written
        with contextlib.suppress(OSError):
            _append_rows(self._file, new)


def read_trace(file: Path) -> list[Row]:
    """What was kept of a trace before the product was started anew."""
    found: list[Row] = []
    if not file.exists():
        return found
    for line in file.read_text(encoding="ascii", errors="replace").splitlines()[1:]:
        cells = line.split(",")
        try:
            at, amps = float(cells[0]), float(cells[1])
            volts, gas = (float(cell) if cell else None for cell in cells[2:4])
        except (ValueError, IndexError):
            # the last line of one that was killed
            continue
        found.append((at, amps, volts, gas))
    return found


def _append_rows(file: Path, rows: list[Row]) -> None:
    if not rows or (file.exists() and file.stat().st_size > MAX_BYTES):
        return
    told = (
        f"{t:.3f},{a:g},{'' if v is None else f'{v:g}'},{'' if g is None else f'{g:g}'}"
        for t, a, v, g in rows
    )
    append_rows(file, HEADER, told, MAX_FILES)


class Sources:
    """The power sources that are listened to, one for each run under way; held by the
    application.
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder / FOLDER
        self._open: dict[int, Source] = {}
        self._guard = threading.Lock()

    def file(self, number: int, began: float) -> Path:
        """Where the trace of a run is kept; by its moment too, for another book in this folder
        counts from one again.
        """
        return self._folder / f"{number}-{began:.0f}.csv"

    def of(
        self, number: int, port: int | None, began: float, under_way: bool, usual_v: float
    ) -> Source | None:
        """The source of a run; called where it was not yet, let go where the run is over or it has
        none.
        """
        with self._guard:
            found = self._open.get(number)
            if found is not None and (not under_way or found.port != port):
                found.close()
                del self._open[number]
                found = None
            if found is None and under_way and port is not None:
                found = self._open[number] = Source(port, began, self.file(number, began), usual_v)
            return found

    def let_go(self, number: int) -> None:
        """Let the source of a run go, if it has one."""
        with self._guard:
            found = self._open.pop(number, None)
            if found is not None:
                found.close()

    def close(self) -> None:
        """Let all of them go."""
        with self._guard:
            for found in self._open.values():
                found.close(wait=True)
            self._open.clear()
