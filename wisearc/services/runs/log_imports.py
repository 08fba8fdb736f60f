"""Logs imported in the background.

Progress, cancellation and result; one at a time, because each needs memory.
"""

from __future__ import annotations

import secrets
import threading
from collections import OrderedDict
from pathlib import Path
from typing import Any

from msgspec import Struct

from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...core.run.verification import Bands
from ...formats.arc_log.arc_csv import MAX_BYTES, check_size, read_arc_csv, release_pages
from ...store.errors import StoreError
from ...store.folder import wrap_disk_errors
from ..background import Background
from .arc_columns import ArcColumns
from .arc_logs import analyse_readings
from .kept_files import KeptFiles

__all__ = ["MAX_LOG_BYTES", "LogImport", "LogImports", "check_size"]
MAX_CACHED = 20
# The maximum size of a log, bytes.
MAX_LOG_BYTES = MAX_BYTES
FAILED = (
    "Not saved: Wise Arc has an error and cannot read this log. Save the log as CSV with the"
    " columns time_s and current_a, then upload it again."
)
# The progress at the end of parsing and of analysis; then the save.
_LOOKED_FROM, _KEPT_FROM = 0.4, 0.6


class _Stopped(Exception):
    pass


class LogImport(Struct):
    """An import.

    File name, progress 0 to 1, state ("waits", "reads", "done", "stopped", "failed"), reason,
    SHA-256.
    """

    name: str
    share: float = 0.0
    state: str = "waits"
    words: str = ""
    sha256: str = ""
    asked_to_stop: bool = False

    @property
    def going(self) -> bool:
        """Return whether it is in progress."""
        return self.state in ("waits", "reads")


class LogImports:
    """The imports by key, owned by the application."""

    def __init__(self, files: KeptFiles, columns: ArcColumns, background: Background) -> None:
        """Create an empty set of imports.

        Args:
            files: The files of runs.
            columns: The columns of the logs.
            background: Starts the threads.
        """
        self._background = background
        self._files, self._columns = files, columns
        self._kept: OrderedDict[str, LogImport] = OrderedDict()
        self._guard = threading.Lock()

    def begin(self, path: Path, name: str, plan: Plan | None, bands: Bands | None) -> str:
        """Import a file, which is deleted afterwards, and return the key of the import.

        Args:
            path: The file.
            name: Its name.
            plan: The plan, or None.
            bands: Its ranges, or None.
        """
        key, reading = secrets.token_hex(8), LogImport(name)
        with self._guard:
            self._kept[key] = reading
            while len(self._kept) > MAX_CACHED:
                _, dropped = self._kept.popitem(last=False)
                dropped.asked_to_stop = True
        self._background.start(lambda: self._run(reading, path, plan, bands), awaited=True)
        return key

    def of(self, key: str) -> LogImport | None:
        """Return an import by its key."""
        with self._guard:
            return self._kept.get(key)

    def stop(self, key: str) -> None:
        """Cancel an import."""
        log_import = self.of(key)
        if log_import is not None:
            log_import.asked_to_stop = True

    def close(self) -> None:
        """Cancel all imports."""
        with self._guard:
            for reading in self._kept.values():
                reading.asked_to_stop = True

    def _run(self, reading: LogImport, path: Path, plan: Plan | None, bands: Bands | None) -> None:
        def told(low: float, high: float) -> Any:
            def watch(share: float) -> None:
                if reading.asked_to_stop:
                    raise _Stopped
                reading.share = low + (high - low) * share

            return watch

        try:
            with (
                self._columns.lock,
                self._columns.create_build_folder() as folder,
                wrap_disk_errors(),
            ):
                reading.state = "reads"
                readings = read_arc_csv(path, told(0.0, _LOOKED_FROM), folder)
                report_analysis = told(_LOOKED_FROM, _KEPT_FROM)

                def report(share: float) -> None:
                    release_pages(readings)
                    report_analysis(share)

                log = analyse_readings(readings, plan, bands, None, report)
                sha256 = self._files.put_log(path, told(_KEPT_FROM, 1.0))
                self._columns.put(sha256, folder, readings, log)
            reading.sha256, reading.share, reading.state = sha256, 1.0, "done"
        except _Stopped:
            reading.state, reading.words = "stopped", "Cancelled. Nothing was saved."
        except InputError as error:
            reading.state, reading.words = "failed", error.sentence
        except StoreError as error:
            reading.state, reading.words = "failed", str(error)
        except BaseException:
            reading.state, reading.words = "failed", FAILED
            raise
        finally:
            path.unlink(missing_ok=True)
