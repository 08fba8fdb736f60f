"""Logs ready to be drawn at any zoom: their columns beside the book as they are in memory, the
newest kept, made again of the log where they are gone.
"""

from __future__ import annotations

import json
import tempfile
import threading
from collections import OrderedDict
from pathlib import Path
from typing import Any

import numpy as np

from ...core.arc_log.arc_log import ArcLog, analyse
from ...core.arc_log.limits import held_of
from ...core.arc_log.pyramid import Columns, columns, pyramid_of
from ...core.arc_log.readings import Readings
from ...core.plan.plan import Plan
from ...core.run.verification import Bands
from ...drawings.canvas import Drawing
from ...drawings.runs.arc_trace import arc_trace
from ...formats.arc_log.arc_csv import read_arc_csv
from ...formats.arc_log.arc_json import arc_log_data, own_arc_log
from ...store.folder import disk_errors, write_whole
from .kept_files import LOG, KeptFiles

FOLDER = "arcs"
MOST_ON_DISK, MOST_OPEN = 8, 3
WIDE = 1100
# what is drawn behind a trace of what it is held within
_BEHIND = {"peak_a": "peak", "background_a": "background", "current_a": "current"}


class ArcColumns:
    """The columns of logs, by their SHA-256; held by the application."""

    def __init__(self, data: Path, files: KeptFiles) -> None:
        self._folder, self._files = data / FOLDER, files
        self._open: OrderedDict[str, tuple[Any, Any, Any]] = OrderedDict()
        self._guard = threading.Lock()

    def put(self, sha256: str, readings: Readings, log: ArcLog) -> None:
        """Keep the columns of a log that was read just now, and what it says. Raises StoreError."""
        data = arc_log_data(log)
        with disk_errors():
            self._folder.mkdir(mode=0o700, exist_ok=True)
            np.save(self._folder / f"{sha256}.time.npy", readings.time_s)
            np.save(
                self._folder / f"{sha256}.current.npy",
                readings.current_a.astype(np.float32, copy=False),
            )
            write_whole(self._folder / f"{sha256}.json", json.dumps(data, allow_nan=False).encode())
            times = sorted(self._folder.glob("*.time.npy"), key=lambda p: p.stat().st_mtime)
            for old in times[:-MOST_ON_DISK]:
                old.unlink(missing_ok=True)
                for other in (".current.npy", ".json"):
                    old.with_name(old.name.replace(".time.npy", other)).unlink(missing_ok=True)

    def window(
        self, sha256: str, from_s: float | None, to_s: float | None, count: int = WIDE
    ) -> tuple[Columns, float, float, float, float]:
        """The columns of a log from a time to another, and from when to when those are and the
        whole log is, s. Raises Missing, BadInput.
        """
        time, current, levels = self._of(sha256)
        first, last = float(time[0]), float(time[-1])
        start = first if from_s is None else max(first, min(from_s, last))
        end = last if to_s is None else min(last, max(to_s, first))
        if end - start < 1e-3:
            start, end = first, last
        return columns(time, current, levels, start, end, count), start, end, first, last

    def drawn(
        self,
        sha256: str,
        from_s: float | None,
        to_s: float | None,
        plan: Plan | None,
        bands: Bands | None,
    ) -> tuple[Drawing, float, float, float, float]:
        """A log drawn from a time to another, with what a plan is held within behind it; and from
        when to when that is, and the whole log, s. Raises Missing.
        """
        log = self.log(sha256)
        found, start, end, first, last = self.window(sha256, from_s, to_s)
        held = {} if plan is None else held_of(plan, bands)
        behind = {words: held[key] for key, words in _BEHIND.items() if key in held}
        return (
            arc_trace(found, start, end, behind, log.stretches, log.left_band),
            start,
            end,
            first,
            last,
        )

    def _of(self, sha256: str) -> tuple[Any, Any, Any]:
        with self._guard:
            if sha256 in self._open:
                self._open.move_to_end(sha256)
                return self._open[sha256]
            paths = [self._folder / f"{sha256}.{name}.npy" for name in ("time", "current")]
            self._files.path(sha256, LOG)
            if not all(path.exists() for path in paths):
                self._make(sha256)
            time, current = (np.load(path, mmap_mode="r") for path in paths)
            self._open[sha256] = (time, current, pyramid_of(current))
            while len(self._open) > MOST_OPEN:
                self._open.popitem(last=False)
            return self._open[sha256]

    def _make(self, sha256: str) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "log.csv"
            self._files.unpack(sha256, path)
            readings = read_arc_csv(path)
            self.put(sha256, readings, analyse(readings))

    def log(self, sha256: str) -> ArcLog:
        """What a log says, as it was judged when it was read. Raises Missing."""
        path = self._folder / f"{sha256}.json"
        self._files.path(sha256, LOG)
        if not path.exists():
            self._make(sha256)
        return own_arc_log(json.loads(path.read_text(encoding="utf-8")))
