"""An oxygen meter listened to: what it says is kept as it comes and in a file beside the book; what
is wrong with it told.
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
    """What a meter has said so far: its readings (s since the gas was opened, ppm), how it stands
    ("none", "calling", "reading", "silent", "gone", "nonsense", "below"), in words, and how many
    lines were no reading.
    """

    readings: list[Reading] = field(default_factory=list)
    state: str = "none"
    words: str = ""
    bad: int = 0


class Listener(DeviceReader):
    """Listens to one meter for one purge, in a thread of its own, until it is closed."""

    device = "meter"

    def __init__(
        self, port: int, began: float, file: Path | None, clock: Callable[[], float] = time.time
    ) -> None:
        super().__init__(port)
        self._began, self._file, self._clock = began, file, clock
        self._readings, self._bad, self._wrong_in_row = _read_file(file), 0, 0
        self._offset: float | None = None
        self._last_time = -math.inf
        self._thread.start()

    def heard(self) -> MeterReading:
        """What was heard so far, as it stands now."""
        with self._guard:
            found = MeterReading(list(self._readings), self._state, self._words, self._bad)
        since = self._quiet_s()
        if found.state == "reading" and since > SILENT_S:
            last = (
                f"; the last reading was {found.readings[-1][1]:.0f} ppm" if found.readings else ""
            )
            found.state, found.words = (
                "silent",
                (
                    f"The meter has sent nothing for {since:.0f} s{last}. Check its cable and "
                    "pump. The clock continues."
                ),
            )
        return found

    def _anew(self) -> None:
        self._offset, self._last_time = None, -math.inf

    def _lines(self, lines: list[bytes]) -> None:
        for raw in lines:
            fault = self._taken(raw)
            self._wrong_in_row = self._wrong_in_row + 1 if fault else 0
            if fault and (self._wrong_in_row >= NONSENSE or fault[0] == "below"):
                self._set(*fault)

    def _taken(self, raw: bytes) -> tuple[str, str] | None:
        """Take a line. Returns what is wrong with it, or None."""
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

    def _wrong(self, state: str, words: str) -> tuple[str, str]:
        with self._guard:
            self._bad += 1
        self._last_heard = time.monotonic()
        return state, words

    def _keep(self, reading: Reading) -> None:
        self._last_heard = time.monotonic()
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
                # the disk is full or gone: what is seen goes on, the book says so where it is
                # written
                self._file = None


def _read_file(file: Path | None) -> list[Reading]:
    """What was kept of a purge before the product was started anew."""
    found: list[Reading] = []
    if file is None or not file.exists():
        return found
    for line in file.read_text(encoding="ascii", errors="replace").splitlines()[1:]:
        at, _, ppm = line.partition(",")
        try:
            reading = float(at), float(ppm)
        except ValueError:
            # the last line of one that was killed
            continue
        if not found or reading[0] > found[-1][0]:
            found.append(reading)
    return found


def readings_csv(readings: Sequence[Reading]) -> str:
    """Readings as CSV, as the stand-in plays it again."""
    return "\r\n".join([HEADER, *(f"{t:.3f},{c:g}" for t, c in readings)]) + "\r\n"


class Listeners:
    """The meters that are listened to, one for each purge under way; held by the application."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder / FOLDER
        self._open: dict[int, Listener] = {}
        self._guard = threading.Lock()

    def file(self, number: int, began: float) -> Path:
        """Where the readings of a purge are kept; by its moment too, for another book in this
        folder counts from one again.
        """
        return self._folder / f"{number}-{began:.0f}.csv"

    def of(self, number: int, port: int | None, began: float, under_way: bool) -> MeterReading:
        """What the meter of a purge has said; it is called where it was not yet, and let go where
        the purge is over.
        """
        with self._guard:
            found = self._open.get(number)
            if found is not None and (not under_way or found.port != port):
                del self._open[number]
            elif found is None and under_way and port is not None:
                found = self._open[number] = Listener(port, began, self.file(number, began))
        if found is None:
            return MeterReading(_read_file(self.file(number, began)))
        heard = found.heard()
        if not under_way or found.port != port:
            found.close()
        return heard

    def close(self) -> None:
        """Let all of them go."""
        with self._guard:
            for found in self._open.values():
                found.close(wait=True)
            self._open.clear()
