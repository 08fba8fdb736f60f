"""A reader for a power source.

JSON lines from a local port, summed immediately, and saved in a file next to the library as an arc
log.
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
from ...core.arc_log.signals import ArcSignal, PlannedArc, SignalFinder
from ..devices.device_reader import NONSENSE, SILENT_S, DeviceReader, append_rows

FOLDER = "traces"
HEADER = "time_s,current_a,voltage_v,gas"
MAX_FILES, MAX_BYTES = 60, 200_000_000
# A source whose clock still agrees with this computer after a reconnection continues its time.
# Otherwise it was started again.
MAX_CLOCK_STEP_S = 3.0
# The maximum number of rows for a page, the newest.
MAX_PAGE_ROWS = 1000


class SourceState(Struct, frozen=True):
    """The state of a source, its text, the totals, the rows since the requested time, gas readings.

    States: "none", "calling", "reading", "silent", "gone", "nonsense".
    """

    state: str
    words: str
    live: Live
    rows: list[Row]
    has_gas: bool = False


class Source(DeviceReader):
    """A reader of one power source for one run, in a separate thread, until it is closed."""

    device = "power source"

    def __init__(
        self,
        port: int,
        began: float,
        file: Path,
        planned: PlannedArc,
        clock: Callable[[], float] = time.time,
    ) -> None:
        """Start to read a power source.

        Args:
            port: Its port.
            began: Start of the session, s since 1970.
            file: The file of the trace.
            planned: The planned arc.
            clock: Current time, s since 1970.
        """
        super().__init__(port)
        self._began, self._file, self._clock = began, file, clock
        self._live, self._wrong = Live(usual_v=planned.volts), 0
        self._finder = SignalFinder(planned)
        self._offset: float | None = None
        self._is_new_connection = True
        for row in read_trace(file):
            self._take_row(row)
        self._thread.start()

    def standing(self, after_s: float) -> SourceState:
        """Return the state, with the rows after a time."""
        with self._guard:
            rows = [row for row in self._live.tail if row[0] > after_s][-MAX_PAGE_ROWS:]
            status = SourceState(self._state, self._words, self._live, rows, self._finder.has_gas)
        since = self._quiet_s()
        if status.state == "reading" and since > SILENT_S:
            text = (
                f"The power source has sent nothing for {since:.0f} s. Check its cable. The "
                "clock continues."
            )
            return SourceState("silent", text, status.live, status.rows, status.has_gas)
        return status

    def list_signals(self, first: int = 0) -> list[ArcSignal]:
        """Return the signals of the arc so far, from one of them on."""
        with self._guard:
            return self._finder.signals[first:]

    def _take_row(self, row: Row) -> None:
        self._live.take(row)
        self._finder.follow(self._live)

    def summarise_recent(self, held: Mapping[str, Ends]) -> ArcLog | None:
        """Return the analysis of the last seconds, or None."""
        with self._guard:
            return self._live.summarise_recent(held)

    def _reset(self) -> None:
        self._is_new_connection = True

    def _lines(self, lines: list[bytes]) -> None:
        rows = [row for row in map(self._row, lines) if row is not None]
        self._wrong = 0 if rows else self._wrong + len(lines)
        if self._wrong >= NONSENSE:
            text = (
                "The data at that port is not from a power source: it needs time_s and "
                "current_a, one reading per line. Check the port."
            )
            self._set("nonsense", text)
        if rows:
            self._keep(rows)

    def _row(self, raw: bytes) -> Row | None:
        """Return a line as a reading, or None."""
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
        offset = self._offset
        if offset is None or self._is_new_connection:
            now_s = max(0.0, self._clock() - self._began)
            # After a lost link the time of the source continues, so that a gap has its true length.
            if offset is None or abs(at + offset - now_s) > MAX_CLOCK_STEP_S:
                offset = now_s - at
            self._offset, self._is_new_connection = offset, False
        volts, gas = (None if v is None else float(v) for v in values[2:])
        return round(at + offset, 3), amps, volts, gas

    def _keep(self, rows: list[Row]) -> None:
        self._last_reading_s = time.monotonic()
        with self._guard:
            if self._closed.is_set():
                # Another reader has the file.
                return
            new = []
            for row in rows:
                before = self._live.rows
                self._take_row(row)
                if self._live.rows > before:
                    new.append(row)
            self._state, self._words = "reading", ""
            # The disk is full or missing. The display continues, and the library reports the
            # problem when it is written.
            with contextlib.suppress(OSError):
                _append_rows(self._file, new)


def read_trace(file: Path) -> list[Row]:
    """Return the saved trace from before a restart."""
    rows: list[Row] = []
    if not file.exists():
        return rows
    for line in file.read_text(encoding="ascii", errors="replace").splitlines()[1:]:
        cells = line.split(",")
        try:
            at, amps = float(cells[0]), float(cells[1])
            volts, gas = (float(cell) if cell else None for cell in cells[2:4])
        except (ValueError, IndexError):
            # The last line of a killed process.
            continue
        rows.append((at, amps, volts, gas))
    return rows


def _append_rows(file: Path, rows: list[Row]) -> None:
    if not rows or (file.exists() and file.stat().st_size > MAX_BYTES):
        return
    lines = (
        f"{t:.3f},{a:g},{'' if v is None else f'{v:g}'},{'' if g is None else f'{g:g}'}"
        for t, a, v, g in rows
    )
    append_rows(file, HEADER, lines, MAX_FILES)


class Sources:
    """The readers of all runs in progress, owned by the application."""

    def __init__(self, folder: Path) -> None:
        """Use a data folder."""
        self._folder = folder / FOLDER
        self._open: dict[int, Source] = {}
        self._guard = threading.Lock()

    def file(self, number: int, began: float) -> Path:
        """Return the file of the trace of a run.

        Its name includes the start time, because another library in this folder starts again from
        number one.

        Args:
            number: Number of the run.
            began: Start, s since 1970.
        """
        return self._folder / f"{number}-{began:.0f}.csv"

    def of(
        self, number: int, port: int | None, began: float, under_way: bool, planned: PlannedArc
    ) -> Source | None:
        """Return the source of a run.

        The reader is started if necessary, and released at the end of the run.

        Args:
            number: Number of the run.
            port: Port of the source, or None.
            began: Start, s since 1970.
            under_way: Whether the run is in progress.
            planned: The planned arc.
        """
        with self._guard:
            source = self._open.get(number)
            if source is not None and (not under_way or source.port != port):
                source.close()
                del self._open[number]
                source = None
            if source is None and under_way and port is not None:
                source = self._open[number] = Source(port, began, self.file(number, began), planned)
            return source

    def release(self, number: int) -> None:
        """Release the source of a run."""
        with self._guard:
            source = self._open.pop(number, None)
            if source is not None:
                source.close()

    def close(self) -> None:
        """Release all sources."""
        with self._guard:
            for source in self._open.values():
                source.close(wait=True)
            self._open.clear()
