"""Deletes photographs and arc logs without a run while the library is served."""

from __future__ import annotations

import threading
from pathlib import Path

from ...store.errors import StoreError
from ...store.opening import Store
from ..background import Background
from .maintenance import delete_unreferenced_files

INTERVAL_S = 6 * 3600.0


class FileCollector:
    """Deletes unreferenced files at the start and every six hours."""

    def __init__(self, folder: Path, store: Store, background: Background) -> None:
        """Create a collector that is not running.

        Args:
            folder: The data folder.
            store: The open library.
            background: Starts the thread.
        """
        self._folder, self._store, self._background = folder, store, background
        self._stopped = threading.Event()

    def start(self) -> None:
        """Start the thread."""
        self._background.start(self._run, awaited=True)

    def stop(self) -> None:
        """Stop the thread."""
        self._stopped.set()

    def _run(self) -> None:
        while not self._stopped.is_set():
            try:
                delete_unreferenced_files(self._folder)
            except StoreError:
                # The next run tries again.
                pass
            finally:
                self._store.close()
            self._stopped.wait(INTERVAL_S)
