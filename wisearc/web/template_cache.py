"""Compiled templates in a file, so that the first page after a start is quick."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

from jinja2 import FileSystemBytecodeCache
from jinja2.bccache import Bucket

FOLDER = "page-cache"


class TemplateCache(FileSystemBytecodeCache):
    """Compiled templates in the data folder. A template that changed is compiled again.

    Pages do not depend on the cache: a full or damaged disk must not stop them.
    """

    def __init__(self, data: Path) -> None:
        """Use a folder of the data folder. Without permission to write there is no cache.

        Args:
            data: The data folder.
        """
        folder = data / FOLDER
        with suppress(OSError):
            folder.mkdir(mode=0o700, exist_ok=True)
        super().__init__(str(folder))

    def load_bytecode(self, bucket: Bucket) -> None:
        """Load a compiled template."""
        with suppress(OSError):
            super().load_bytecode(bucket)

    def dump_bytecode(self, bucket: Bucket) -> None:
        """Save a compiled template."""
        with suppress(OSError):
            super().dump_bytecode(bucket)
