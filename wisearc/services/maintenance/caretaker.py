"""What is put in order by itself while the book is served: files that no run speaks of are taken
away, at the start and a few times a day.
"""

from __future__ import annotations

import threading
from pathlib import Path

from ...store.errors import StoreError
from ...store.opening import Store
from ..background import Background
from .maintenance import collect_files

EVERY_S = 6 * 3600.0


class Caretaker:
    """Looks after the files of a data folder until it is closed."""

    def __init__(self, folder: Path, store: Store, background: Background) -> None:
        self._folder, self._store, self._background = folder, store, background
        self._over = threading.Event()

    def begin(self) -> None:
        """Begin, beside the pages."""
        self._background.start(self._look_after, awaited=True)

    def close(self) -> None:
        """End."""
        self._over.set()

    def _look_after(self) -> None:
        while not self._over.is_set():
            try:
                collect_files(self._folder)
            except StoreError:
                # what cannot be read or written now is looked at the next time
                pass
            finally:
                self._store.close()
            self._over.wait(EVERY_S)
