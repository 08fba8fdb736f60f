"""Columns of arc logs in files, so that a plot does not read the whole log.

A complete folder of columns never changes. Missing or damaged columns are built again.
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
from typing import IO, TYPE_CHECKING, Any, TypeVar

from ...core.arc_log.arc_log import ArcLog, analyse
from ...core.arc_log.limits import get_limits
from ...core.arc_log.pyramid import Bins, Columns, Pyramid, build_bins, read_columns
from ...core.arc_log.readings import Readings, Rows
from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.run.verification import Bands
from ...drawings.canvas import Drawing
from ...drawings.runs.arc_trace import draw_arc_trace
from ...formats.arc_log.arc_csv import COLUMNS, list_dtypes, read_arc_csv
from ...formats.arc_log.arc_json import arc_log_data, read_own_arc_log
from ...store.errors import Preparing, StoreError, Unreadable
from ...store.folder import COLUMNS as FOLDER
from ...store.folder import PART, replace_file, wrap_disk_errors, write_complete
from ..background import Background
from .kept_files import DAMAGED, LOG, KeptFiles

if TYPE_CHECKING:
    import numpy as np

BINS = "bins.npz"
MAX_STORED, MAX_OPEN = 8, 3
WIDE = 1100
# A page waits this long before it reports that the log is not ready, s.
WAIT_S = 1.2
# The allowed ranges in the plot, by figure.
_RANGES = {"peak_a": "peak", "background_a": "background", "current_a": "current"}
_Result = TypeVar("_Result")


class _ColumnFiles:
    """The files of one log. They are read in parts and not mapped.

    A mapped file that gets shorter would kill the process. A read only raises an error.
    """

    def __init__(self, folder: Path) -> None:
        """Open the files.

        Args:
            folder: Folder of the columns.

        Raises:
            OSError: A file is missing.
            ValueError: A file is damaged.
        """
        import numpy as np

        with np.load(folder / BINS, allow_pickle=False) as data:
            rows, last_s = int(data["rows"]), float(data["last_s"])
            self.bins = Bins(rows, last_s, data["time_s"], data["low"], data["high"])
        self._files: list[tuple[IO[bytes], np.dtype[Any]]] = []
        for name, dtype in zip(COLUMNS[:2], list_dtypes()[:2], strict=True):
            file = (folder / name).open("rb", buffering=0)
            self._files.append((file, dtype))
            if os.fstat(file.fileno()).st_size != rows * dtype.itemsize:
                raise ValueError(name)

    def read(self, first: int, last: int) -> tuple[Rows, Rows]:
        """Read rows.

        Args:
            first: First row.
            last: Row after the last one.

        Returns:
            Times, s, and currents, A.

        Raises:
            Unreadable: A file is too short.
        """
        import numpy as np

        arrays = []
        for file, dtype in self._files:
            size = (last - first) * dtype.itemsize
            data = os.pread(file.fileno(), size, first * dtype.itemsize)
            if len(data) < size:
                raise Unreadable(DAMAGED)
            arrays.append(np.frombuffer(data, dtype))
        return arrays[0], arrays[1]


class _Build:
    """State of a build: progress from 0 to 1, and its error."""

    def __init__(self) -> None:
        """Create the state of a new build."""
        self.share, self.ended = 0.0, threading.Event()
        self.error: StoreError | None = None


class ArcColumns:
    """The columns of all logs, by SHA-256.

    Attributes:
        lock: Held while a log is read or built. This limits the memory to one log.
    """

    def __init__(self, data: Path, files: KeptFiles, background: Background) -> None:
        """Use the columns of a data folder.

        Args:
            data: The data folder.
            files: The logs.
            background: Starts the builds.
        """
        self._folder, self._files, self._background = data / FOLDER, files, background
        self._open: OrderedDict[str, Pyramid] = OrderedDict()
        self._builds: dict[str, _Build] = {}
        self._guard, self.lock = threading.Lock(), threading.Lock()
        self._is_closing = False

    def close(self) -> None:
        """Cancel all builds."""
        self._is_closing = True

    @contextmanager
    def create_build_folder(self) -> Iterator[Path]:
        """Create a temporary folder for the columns of one log.

        Raises:
            StoreError: The disk is full or fails.
        """
        with wrap_disk_errors():
            self._folder.mkdir(mode=0o700, exist_ok=True)
            folder = Path(tempfile.mkdtemp(suffix=PART, dir=self._folder))
        try:
            yield folder
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def put(self, sha256: str, folder: Path, readings: Readings, log: ArcLog) -> None:
        """Save the columns and the analysis of a log.

        Args:
            sha256: SHA-256 of the log.
            folder: The build folder with the columns of `readings`.
            readings: The readings.
            log: The analysis.

        Raises:
            StoreError: The disk is full or fails.
        """
        import numpy as np

        def read(first: int, last: int) -> tuple[Rows, Rows]:
            return readings.time_s[first:last], readings.current_a[first:last]

        bins = build_bins(readings.rows, read)
        with wrap_disk_errors():
            with (folder / BINS).open("wb") as file:
                np.savez(
                    file,
                    rows=bins.rows,
                    last_s=bins.last_s,
                    time_s=bins.time_s,
                    low=bins.low,
                    high=bins.high,
                )
            for path in folder.iterdir():
                if path.name not in (BINS, *COLUMNS[:2]):
                    path.unlink()
            self.save_log(sha256, log)
            # Requests can read an existing folder: do not replace it if it is complete.
            if self._load_columns(sha256) is None:
                if (self._folder / sha256).exists():
                    self._delete(self._folder / sha256)
                replace_file(folder, self._folder / sha256)
            self._delete_oldest(sha256)

    def _delete_oldest(self, newest: str) -> None:
        folders = [path for path in self._folder.iterdir() if path.is_dir() and path.suffix != PART]
        folders.sort(key=lambda path: (path.name == newest, path.stat().st_mtime))
        for folder in folders[:-MAX_STORED]:
            self._delete(folder)
        # Earlier versions saved the columns in these files.
        for path in self._folder.glob("*.npy"):
            path.unlink(missing_ok=True)

    def _delete(self, folder: Path) -> None:
        """Delete a folder. Rename it first, so that no request finds an incomplete folder."""
        renamed = Path(tempfile.mkdtemp(suffix=PART, dir=self._folder)) / folder.name
        folder.replace(renamed)
        shutil.rmtree(renamed.parent, ignore_errors=True)

    def save_log(self, sha256: str, log: ArcLog) -> None:
        """Save the analysis of a log. The columns are built when a plot needs them.

        Args:
            sha256: SHA-256 of the log.
            log: The analysis.

        Raises:
            StoreError: The disk is full or fails.
        """
        with wrap_disk_errors():
            self._folder.mkdir(mode=0o700, exist_ok=True)
            data = json.dumps(arc_log_data(log), allow_nan=False).encode()
            write_complete(self._folder / f"{sha256}.json", data)

    def window(
        self, sha256: str, from_s: float | None, to_s: float | None, count: int = WIDE
    ) -> tuple[Columns, float, float, float, float]:
        """Return the columns of a plot.

        Args:
            sha256: SHA-256 of the log.
            from_s: Start of the plot, s, or None for the whole log.
            to_s: End of the plot, s, or None.
            count: Maximum number of columns.

        Returns:
            Columns; start and end of the plot, s; start and end of the log, s.

        Raises:
            StoreError: The log is missing, damaged, or not ready.
        """
        try:
            return self._read_window(self._open_log(sha256), from_s, to_s, count)
        except Unreadable:
            # The open files are damaged. Try once with the current files, or build them.
            with self._guard:
                self._open.pop(sha256, None)
            return self._read_window(self._open_log(sha256), from_s, to_s, count)

    def _read_window(
        self, pyramid: Pyramid, from_s: float | None, to_s: float | None, count: int
    ) -> tuple[Columns, float, float, float, float]:
        first, last = pyramid.first_s, pyramid.last_s
        start = first if from_s is None else max(first, min(from_s, last))
        end = last if to_s is None else min(last, max(to_s, first))
        if end - start < 1e-3:
            start, end = first, last
        return read_columns(pyramid, start, end, count), start, end, first, last

    def drawn(
        self,
        sha256: str,
        from_s: float | None,
        to_s: float | None,
        plan: Plan | None,
        bands: Bands | None,
        palette: str = "screen",
    ) -> tuple[Drawing, float, float, float, float]:
        """Draw a plot with the allowed ranges of a plan.

        Args:
            sha256: SHA-256 of the log.
            from_s: Start of the plot, s, or None for the whole log.
            to_s: End of the plot, s, or None.
            plan: The plan, or None.
            bands: Allowed ranges of the procedure, or None.
            palette: Colours, "screen" or "paper".

        Returns:
            Drawing; start and end of the plot, s; start and end of the log, s.

        Raises:
            StoreError: The log is missing, damaged, or not ready.
        """
        log = self.log(sha256)
        plot, start, end, first, last = self.window(sha256, from_s, to_s)
        limits = {} if plan is None else get_limits(plan, bands)
        ranges = {name: limits[key] for key, name in _RANGES.items() if key in limits}
        drawing = draw_arc_trace(plot, start, end, ranges, log.stretches, log.left_band, palette)
        return drawing, start, end, first, last

    def log(self, sha256: str) -> ArcLog:
        """Return the saved analysis of a log.

        Args:
            sha256: SHA-256 of the log.

        Raises:
            StoreError: The log is missing, damaged, or not ready.
        """
        self._files.path(sha256, LOG)
        return self._wait_until_built(sha256, lambda: self._load_log(sha256))

    def _open_log(self, sha256: str) -> Pyramid:
        self._files.path(sha256, LOG)
        with self._guard:
            pyramid = self._open.get(sha256)
            if pyramid is not None:
                self._open.move_to_end(sha256)
                return pyramid
        pyramid = self._wait_until_built(sha256, lambda: self._load_columns(sha256))
        with self._guard:
            self._open[sha256] = pyramid
            while len(self._open) > MAX_OPEN:
                self._open.popitem(last=False)
        return pyramid

    def _load_columns(self, sha256: str) -> Pyramid | None:
        """Return the columns of a log, or None if they are missing or damaged."""
        try:
            files = _ColumnFiles(self._folder / sha256)
        except (OSError, ValueError, KeyError, EOFError, zlib.error):
            return None
        return Pyramid(files.bins, files.read)

    def _load_log(self, sha256: str) -> ArcLog | None:
        try:
            text = (self._folder / f"{sha256}.json").read_text(encoding="utf-8")
            return read_own_arc_log(json.loads(text))
        except (OSError, ValueError):
            return None

    def _wait_until_built(self, sha256: str, load: Callable[[], _Result | None]) -> _Result:
        """Load a result. If it is missing, build the log first.

        All requests wait for the same build.

        Raises:
            Preparing: The build takes longer than a page waits.
            StoreError: The build failed.
        """
        result = load()
        if result is not None:
            return result
        with self._guard:
            build = self._builds.get(sha256)
            if build is None:
                build = self._builds[sha256] = _Build()
                self._background.start(lambda: self._build(sha256, build), awaited=True)
        if not build.ended.wait(WAIT_S):
            raise Preparing(build.share)
        if build.error is not None:
            raise build.error
        result = load()
        if result is None:
            raise Preparing(0.0)
        return result

    def _build(self, sha256: str, build: _Build) -> None:
        def report(share: float) -> None:
            build.share = share
            if self._is_closing:
                raise Unreadable("Wise Arc is stopping. Open this log again after the next start.")

        try:
            with self.lock, self.create_build_folder() as folder, wrap_disk_errors():
                path = folder / "log.csv"
                self._files.unpack(sha256, path)
                readings = read_arc_csv(path, report, folder)
                self.put(sha256, folder, readings, self._load_log(sha256) or analyse(readings))
        except StoreError as error:
            build.error = error
        except (InputError, EOFError, zlib.error):
            build.error = Unreadable(DAMAGED)
        except BaseException:
            build.error = Unreadable(
                "The arc log cannot be shown: Wise Arc has an error. The file of the log did not"
                " change."
            )
            raise
        finally:
            with self._guard:
                self._builds.pop(sha256, None)
            build.ended.set()
