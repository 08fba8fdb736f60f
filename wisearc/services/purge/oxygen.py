"""A reader for an oxygen meter.

Readings are saved immediately in a file next to the library, and problems are reported.
"""

from __future__ import annotations

import json
import math
import threading
import time
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec import Struct, field

from ...core.physics.purge_fit import Reading
from ..devices.device_reader import NONSENSE, SILENT_S, DeviceReader, append_rows

FOLDER = "purges"
HEADER = "time_s,ppm"
MAX_READINGS = 60_000
MAX_PPM = 1_000_000.0
MAX_FILES = 40


class MeterReading(Struct):
    """The data of a meter.

    Readings (s since the gas was opened, ppm), state ("none", "calling", "reading", "silent",
    "gone", "nonsense", "below"), text, number of invalid lines.
    """

    readings: list[Reading] = field(default_factory=list)
    state: str = "none"
    words: str = ""
    bad: int = 0


class Listener(DeviceReader):
    """A reader of one meter for one purge, in a separate thread, until it is closed."""

    device = "meter"

    def __init__(
        self, port: int, began: float, file: Path | None, clock: Callable[[], float] = time.time
    ) -> None:
        """Start to read a meter.

        Args:
            port: Its port.
            began: Start of the purge, s since 1970.
            file: The file of the readings, or None.
            clock: Current time, s since 1970.
        """
        super().__init__(port)
        self._began, self._file, self._clock = began, file, clock
        self._readings, self._bad, self._wrong_in_row = _read_file(file), 0, 0
        self._offset: float | None = None
        self._last_time = -math.inf
        self._thread.start()

    def get_reading(self) -> MeterReading:
        """Return the present data."""
        with self._guard:
            reading = MeterReading(list(self._readings), self._state, self._words, self._bad)
        since = self._quiet_s()
        if reading.state == "reading" and since > SILENT_S:
            last = (
                f"; the last reading was {reading.readings[-1][1]:.0f} ppm"
                if reading.readings
                else ""
            )
            reading.state, reading.words = (
                "silent",
                (
                    f"The meter has sent nothing for {since:.0f} s{last}. Check its cable and "
                    "pump. The clock continues."
                ),
            )
        return reading

    def _reset(self) -> None:
        self._offset, self._last_time = None, -math.inf

    def _lines(self, lines: list[bytes]) -> None:
        for raw in lines:
            fault = self._taken(raw)
            self._wrong_in_row = self._wrong_in_row + 1 if fault else 0
            if fault and (self._wrong_in_row >= NONSENSE or fault[0] == "below"):
                self._set(*fault)

    def _taken(self, raw: bytes) -> tuple[str, str] | None:
        """Process a line, and return its problem or None."""
        try:
            data = json.loads(raw)
            at, ppm = data["time_s"], data["ppm"]
            if (
                isinstance(at, bool)
                or isinstance(ppm, bool)
                or not (math.isfinite(at) and math.isfinite(ppm))
            ):
                raise ValueError
        except (ValueError, TypeError, KeyError, RecursionError, OverflowError):
            return self._wrong(
                "nonsense",
                (
                    "The data at that port is not from a meter: it needs time_s and ppm, one "
                    "reading per line. Check the port."
                ),
            )
        if ppm < 0:
            return self._wrong(
                "below",
                (
                    f"The meter reads {ppm:g} ppm, below 0. Calibrate it in clean air or argon. "
                    "Wise Arc ignores such readings."
                ),
            )
        if ppm > MAX_PPM or at <= self._last_time or at > 1e7:
            return self._wrong(
                "nonsense",
                (
                    "The meter time runs backwards, or the reading is impossible. The meter "
                    "restarted or is broken. Wise Arc ignores such readings."
                ),
            )
        self._last_time = at
        if self._offset is None:
            self._offset = max(0.0, self._clock() - self._began) - at
        self._keep((round(at + self._offset, 3), float(ppm)))
        return None

    def _wrong(self, state: str, text: str) -> tuple[str, str]:
        with self._guard:
            self._bad += 1
        self._last_reading_s = time.monotonic()
        return state, text

    def _keep(self, reading: Reading) -> None:
        self._last_reading_s = time.monotonic()
        with self._guard:
            readings = self._readings
            if readings and reading[0] <= readings[-1][0]:
                reading = (readings[-1][0] + 0.001, reading[1])
            if len(readings) >= MAX_READINGS:
                del readings[: MAX_READINGS // 2 : 2]
            readings.append(reading)
            self._state, self._words = "reading", ""
        if self._file is not None:
            try:
                append_rows(self._file, HEADER, [f"{reading[0]:.3f},{reading[1]:g}"], MAX_FILES)
            except OSError:
                # The disk is full or missing. The display continues, and the library reports the
                # problem when it is written.
                self._file = None


def _read_file(file: Path | None) -> list[Reading]:
    """Return the saved readings of a purge from before a restart."""
    readings: list[Reading] = []
    if file is None or not file.exists():
        return readings
    for line in file.read_text(encoding="ascii", errors="replace").splitlines()[1:]:
        at, _, ppm = line.partition(",")
        try:
            reading = float(at), float(ppm)
        except ValueError:
            # The last line of a killed process.
            continue
        if not readings or reading[0] > readings[-1][0]:
            readings.append(reading)
    return readings


def readings_csv(readings: Sequence[Reading]) -> str:
    """Return readings as CSV, for a replay by the simulator.

    Args:
        readings: The readings.
    """
    return "\r\n".join([HEADER, *(f"{t:.3f},{c:g}" for t, c in readings)]) + "\r\n"


class Listeners:
    """The readers of all purges in progress, owned by the application."""

    def __init__(self, folder: Path) -> None:
        """Use a data folder."""
        self._folder = folder / FOLDER
        self._open: dict[int, Listener] = {}
        self._guard = threading.Lock()

    def file(self, number: int, began: float) -> Path:
        """Return the file of the readings of a purge.

        Its name includes the start time, because another library in this folder starts again from
        number one.

        Args:
            number: Number of the purge.
            began: Start, s since 1970.
        """
        return self._folder / f"{number}-{began:.0f}.csv"

    def of(self, number: int, port: int | None, began: float, under_way: bool) -> MeterReading:
        """Return the data of the meter of a purge.

        The reader is started if necessary, and released at the end of the purge.

        Args:
            number: Number of the purge.
            port: Port of the meter, or None.
            began: Start, s since 1970.
            under_way: Whether the purge is in progress.
        """
        with self._guard:
            listener = self._open.get(number)
            if listener is not None and (not under_way or listener.port != port):
                del self._open[number]
            elif listener is None and under_way and port is not None:
                listener = self._open[number] = Listener(port, began, self.file(number, began))
        if listener is None:
            return MeterReading(_read_file(self.file(number, began)))
        reading = listener.get_reading()
        if not under_way or listener.port != port:
            listener.close()
        return reading

    def close(self) -> None:
        """Release all readers."""
        with self._guard:
            for listener in self._open.values():
                listener.close(wait=True)
            self._open.clear()
