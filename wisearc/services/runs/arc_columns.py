"""Logs ready to be drawn at any zoom: their columns beside the book, the newest kept, made ready
again where they are gone. What stands under its name is complete and is never written to again.
"""

from __future__ import annotations

import json
import os
import shutil
import tempfile
import threading
import zlib
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any, TypeVar

import numpy as np

from ...core.arc_log.arc_log import ArcLog, analyse
from ...core.arc_log.limits import held_of
from ...core.arc_log.pyramid import Bins, Columns, Pyramid, bins_of, columns
from ...core.arc_log.readings import Readings, Rows
from ...core.errors import BadInput
from ...core.plan.plan import Plan
from ...core.run.verification import Bands
from ...drawings.canvas import Drawing
from ...drawings.runs.arc_trace import arc_trace
from ...formats.arc_log.arc_csv import COLUMNS, STORED, read_arc_csv
from ...formats.arc_log.arc_json import arc_log_data, own_arc_log
from ...store.errors import Preparing, StoreError, Unreadable
from ...store.folder import COLUMNS as PLACE
from ...store.folder import PART, disk_errors, put_in_place, write_whole
from ..background import Background
from .kept_files import DAMAGED, LOG, KeptFiles

BINS = "bins.npz"
MOST_ON_DISK, MOST_OPEN = 8, 3
WIDE = 1100
# a page waits so long for a log that is made ready, s; then it says so
WAIT_S = 1.2
# what is drawn behind a trace of what it is held within
_BEHIND = {"peak_a": "peak", "background_a": "background", "current_a": "current"}
_Found = TypeVar("_Found")


class _Stored:
    """The columns of a log as they lie on the disk: read piece by piece, never mapped, so that
    whatever happens to the files ends in an error and not in the end of the server.
    """

    def __init__(self, folder: Path) -> None:
        with np.load(folder / BINS, allow_pickle=False) as found:
            rows, last_s = int(found["rows"]), float(found["last_s"])
            self.bins = Bins(rows, last_s, found["time_s"], found["low"], found["high"])
        self._files: list[tuple[IO[bytes], np.dtype[Any]]] = []
        for name, kind in zip(COLUMNS[:2], STORED[:2], strict=True):
            file = (folder / name).open("rb", buffering=0)
            self._files.append((file, kind))
            if os.fstat(file.fileno()).st_size != rows * kind.itemsize:
                raise ValueError(name)

    def read(self, first: int, last: int) -> tuple[Rows, Rows]:
        """Rows from first up to last: times s, currents A. Raises Unreadable."""
        found = []
        for file, kind in self._files:
            size = (last - first) * kind.itemsize
            data = os.pread(file.fileno(), size, first * kind.itemsize)
            if len(data) < size:
                raise Unreadable(DAMAGED)
            found.append(np.frombuffer(data, kind))
        return found[0], found[1]


class _Making:
    """A log that is made ready: how far it is 0 to 1, whether it has ended, and why it failed."""

    def __init__(self) -> None:
        self.share, self.ended = 0.0, threading.Event()
        self.failed: StoreError | None = None


class ArcColumns:
    """The columns of logs, by their SHA-256; held by the application. One log at a time is read or
    made ready (`turn`), for each takes room.
    """

    def __init__(self, data: Path, files: KeptFiles, background: Background) -> None:
        self._folder, self._files, self._background = data / PLACE, files, background
        self._open: OrderedDict[str, Pyramid] = OrderedDict()
        self._making: dict[str, _Making] = {}
        self._guard, self.turn = threading.Lock(), threading.Lock()
        self._closing = False

    def close(self) -> None:
        """Stop what is made ready."""
        self._closing = True

    @contextmanager
    def workplace(self) -> Iterator[Path]:
        """A folder for the columns of a log while it is read, gone afterwards. Raises
        StoreError.
        """
        with disk_errors():
            self._folder.mkdir(mode=0o700, exist_ok=True)
            folder = Path(tempfile.mkdtemp(suffix=PART, dir=self._folder))
        try:
            yield folder
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def put(self, sha256: str, workplace: Path, readings: Readings, log: ArcLog) -> None:
        """Keep the columns of a log that was read in a workplace just now, and what it says. Raises
        StoreError.
        """

        def read(first: int, last: int) -> tuple[Rows, Rows]:
            return readings.time_s[first:last], readings.current_a[first:last]

        bins = bins_of(readings.rows, read)
        with disk_errors():
            with (workplace / BINS).open("wb") as file:
                np.savez(
                    file,
                    rows=bins.rows,
                    last_s=bins.last_s,
                    time_s=bins.time_s,
                    low=bins.low,
                    high=bins.high,
                )
            for path in workplace.iterdir():
                if path.name not in (BINS, *COLUMNS[:2]):
                    path.unlink()
            self.say(sha256, log)
            # one that stands already is complete, and is read: it is left
            if self._stored(sha256) is None:
                if (self._folder / sha256).exists():
                    self._clear(self._folder / sha256)
                put_in_place(workplace, self._folder / sha256)
            self._keep_newest(sha256)

    def _keep_newest(self, sha256: str) -> None:
        standing = [
            path for path in self._folder.iterdir() if path.is_dir() and path.suffix != PART
        ]
        standing.sort(key=lambda path: (path.name == sha256, path.stat().st_mtime))
        for old in standing[:-MOST_ON_DISK]:
            self._clear(old)
        # as earlier versions kept them
        for old in self._folder.glob("*.npy"):
            old.unlink(missing_ok=True)

    def _clear(self, folder: Path) -> None:
        """Take the columns of a log away, whole at once."""
        away = Path(tempfile.mkdtemp(suffix=PART, dir=self._folder)) / folder.name
        folder.replace(away)
        shutil.rmtree(away.parent, ignore_errors=True)

    def say(self, sha256: str, log: ArcLog) -> None:
        """Keep what a log says; its columns are made ready when they are asked for. Raises
        StoreError.
        """
        with disk_errors():
            self._folder.mkdir(mode=0o700, exist_ok=True)
            data = json.dumps(arc_log_data(log), allow_nan=False).encode()
            write_whole(self._folder / f"{sha256}.json", data)

    def window(
        self, sha256: str, from_s: float | None, to_s: float | None, count: int = WIDE
    ) -> tuple[Columns, float, float, float, float]:
        """The columns of a log from a time to another, and from when to when those are and the
        whole log is, s. Raises Missing, Preparing, Unreadable.
        """
        try:
            return self._window(self._of(sha256), from_s, to_s, count)
        except Unreadable:
            # what was open is not what it was: once more from what stands, or is made ready
            with self._guard:
                self._open.pop(sha256, None)
            return self._window(self._of(sha256), from_s, to_s, count)

    def _window(
        self, pyramid: Pyramid, from_s: float | None, to_s: float | None, count: int
    ) -> tuple[Columns, float, float, float, float]:
        first, last = pyramid.first_s, pyramid.last_s
        start = first if from_s is None else max(first, min(from_s, last))
        end = last if to_s is None else min(last, max(to_s, first))
        if end - start < 1e-3:
            start, end = first, last
        return columns(pyramid, start, end, count), start, end, first, last

    def drawn(
        self,
        sha256: str,
        from_s: float | None,
        to_s: float | None,
        plan: Plan | None,
        bands: Bands | None,
    ) -> tuple[Drawing, float, float, float, float]:
        """A log drawn from a time to another, with what a plan is held within behind it; and from
        when to when that is, and the whole log, s. Raises Missing, Preparing, Unreadable.
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

    def log(self, sha256: str) -> ArcLog:
        """What a log says, as it was judged when it was read. Raises Missing, Preparing,
        Unreadable.
        """
        self._files.path(sha256, LOG)
        return self._when_ready(sha256, lambda: self._said(sha256))

    def _of(self, sha256: str) -> Pyramid:
        self._files.path(sha256, LOG)
        with self._guard:
            found = self._open.get(sha256)
            if found is not None:
                self._open.move_to_end(sha256)
                return found
        pyramid = self._when_ready(sha256, lambda: self._stored(sha256))
        with self._guard:
            self._open[sha256] = pyramid
            while len(self._open) > MOST_OPEN:
                self._open.popitem(last=False)
        return pyramid

    def _stored(self, sha256: str) -> Pyramid | None:
        """A log's columns, or None where they are not there whole."""
        try:
            found = _Stored(self._folder / sha256)
        except (OSError, ValueError, KeyError, EOFError, zlib.error):
            return None
        return Pyramid(found.bins, found.read)

    def _said(self, sha256: str) -> ArcLog | None:
        try:
            text = (self._folder / f"{sha256}.json").read_text(encoding="utf-8")
            return own_arc_log(json.loads(text))
        except (OSError, ValueError):
            return None

    def _when_ready(self, sha256: str, find: Callable[[], _Found | None]) -> _Found:
        """What is found of a log, which is made ready first where it is not. Raises Preparing where
        that takes longer than a page waits, what the making raised.
        """
        found = find()
        if found is not None:
            return found
        with self._guard:
            making = self._making.get(sha256)
            if making is None:
                making = self._making[sha256] = _Making()
                self._background.start(lambda: self._make(sha256, making), awaited=True)
        if not making.ended.wait(WAIT_S):
            raise Preparing("This log", making.share)
        if making.failed is not None:
            raise making.failed
        found = find()
        if found is None:
            raise Preparing("This log", 0.0)
        return found

    def _make(self, sha256: str, making: _Making) -> None:
        """Make a log ready, by its file."""

        def told(share: float) -> None:
            making.share = share
            if self._closing:
                raise Unreadable("Wise Arc is being stopped; open this log again afterwards.")

        try:
            with self.turn, self.workplace() as folder, disk_errors():
                path = folder / "log.csv"
                self._files.unpack(sha256, path)
                readings = read_arc_csv(path, told, folder)
                self.put(sha256, folder, readings, self._said(sha256) or analyse(readings))
        except StoreError as error:
            making.failed = error
        except (BadInput, EOFError, zlib.error):
            making.failed = Unreadable(DAMAGED)
        except BaseException:
            making.failed = Unreadable(
                "This log could not be made ready: a fault of Wise Arc's. Its file is as it was."
            )
            raise
        finally:
            with self._guard:
                self._making.pop(sha256, None)
            making.ended.set()
