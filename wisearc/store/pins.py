"""Hashes of the lead PINs, in a file next to the database. No copy of the database has them."""

from __future__ import annotations

import json
import secrets
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from msgspec import Struct, field
from msgspec.structs import replace

from .folder import wrap_disk_errors, write_complete

FILE = "pins.json"
_lock = threading.RLock()


class _Content(Struct, frozen=True):
    """Content of the file. The generation changes when all PINs are deleted."""

    generation: str = ""
    restored: bool = False
    hashes: dict[str, str] = field(default_factory=dict)


class PinFile:
    """The PIN file of a data folder. A file that cannot be read has no valid PIN."""

    def __init__(self, folder: Path) -> None:
        """Use the file of a folder.

        Args:
            folder: The data folder.
        """
        self._path = folder / FILE

    def _read(self) -> _Content:
        try:
            data = json.loads(self._path.read_text(encoding="utf-8"))
            hashes = {str(initials): str(pin) for initials, pin in data["pins"].items()}
            return _Content(str(data["generation"]), bool(data["restored"]), hashes)
        except FileNotFoundError:
            return _Content()
        except (OSError, ValueError, TypeError, KeyError, AttributeError):
            return _Content(generation="unreadable")

    def _write(self, content: _Content) -> None:
        data = {
            "generation": content.generation,
            "restored": content.restored,
            "pins": content.hashes,
        }
        with wrap_disk_errors():
            write_complete(self._path, json.dumps(data, ensure_ascii=False, indent=1).encode())

    @property
    def generation(self) -> str:
        """Return the generation of the PINs.

        A lead session is valid for one generation.
        """
        return self._read().generation

    @property
    def restored(self) -> bool:
        """Return whether a backup was restored and no PIN was set after that."""
        return self._read().restored

    def get_hash(self, initials: str) -> str:
        """Return the hash of a PIN, or an empty string.

        Args:
            initials: Initials of a lead.
        """
        return self._read().hashes.get(initials, "")

    def set_hash(self, initials: str, pin_hash: str) -> None:
        """Save the hash of a PIN.

        Args:
            initials: Initials of a lead.
            pin_hash: Hash in the argon2 format.

        Raises:
            StoreError: The file cannot be written.
        """
        with _lock:
            content = self._read()
            hashes = {**content.hashes, initials: pin_hash}
            self._write(replace(content, restored=False, hashes=hashes))

    def remove(self, initials: str) -> None:
        """Delete the PIN of one lead.

        Args:
            initials: Initials of the lead.

        Raises:
            StoreError: The file cannot be written.
        """
        with _lock:
            content = self._read()
            hashes = {key: pin for key, pin in content.hashes.items() if key != initials}
            if hashes != content.hashes:
                self._write(replace(content, hashes=hashes))

    @contextmanager
    def clear(self, restored: bool) -> Iterator[None]:
        """Delete all PINs while the database is replaced. Undo this if the replacement fails.

        Args:
            restored: Whether lead actions need a PIN that is set after this.

        Raises:
            StoreError: The file cannot be written.
        """
        with _lock:
            content = self._read()
            self._write(_Content(secrets.token_hex(8), restored))
            try:
                yield
            except BaseException:
                self._write(content)
                raise
