"""Long work on the library. It reports its progress, and a cancelled one makes no changes."""

from __future__ import annotations

import shutil
import signal
import tempfile
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from ...store.database import db
from ...store.errors import Cancelled
from ...store.folder import PART, wrap_disk_errors

# Receives the finished number and the total, and returns whether to continue.
Watch = Callable[[int, int], bool]


def continue_always(_done: int, _of: int) -> bool:
    """Continue without progress reports."""
    return True


def report_progress(watch: Watch, done: int, of: int) -> None:
    """Report the progress.

    Args:
        watch: Called with the progress.
        done: Finished number.
        of: Total number.

    Raises:
        Cancelled: The work was cancelled.
    """
    if not watch(done, of):
        raise Cancelled


@contextmanager
def prevent_cancelling() -> Iterator[None]:
    """Complete the work inside despite a cancellation, so that "no changes" is always true."""
    if threading.current_thread() is not threading.main_thread():
        # Only the main thread has signals.
        yield
        return
    before = {
        asked: signal.signal(asked, signal.SIG_IGN) for asked in (signal.SIGINT, signal.SIGTERM)
    }
    try:
        yield
    finally:
        for asked, handler in before.items():
            signal.signal(asked, handler)


def find_unused_path(path: Path) -> Path:
    """Return an unused name."""
    free_path, n = path, 2
    while free_path.exists():
        free_path, n = path.with_stem(f"{path.stem}-{n}"), n + 1
    return free_path


@contextmanager
def make_work_folder(folder: Path) -> Iterator[Path]:
    """Yield a temporary folder in the data folder."""
    with wrap_disk_errors():
        work = Path(tempfile.mkdtemp(prefix="work", suffix=PART, dir=folder))
    try:
        yield work
    finally:
        if not db.is_closed():
            db.close()
        shutil.rmtree(work, ignore_errors=True)
