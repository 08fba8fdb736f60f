"""The leads' PINs, as their hashes, in a file of the data folder beside the book: a copy of the
book, a backup and an archive hold none.
"""

from __future__ import annotations

import json
import secrets
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path

from .folder import disk_errors, write_whole

FILE = "pins.json"
_guard = threading.RLock()


@dataclass(frozen=True)
class _Kept:
    """What stands in the file: a mark that changes when all are forgotten, whether that was because
    another book was put in the place, and the hash of each lead's PIN by their initials.
    """

    mark: str = ""
    restored: bool = False
    pins: dict[str, str] = field(default_factory=dict)


class Pins:
    """The PINs beside one book. What cannot be read opens nothing."""

    def __init__(self, folder: Path) -> None:
        self._path = folder / FILE

    def _read(self) -> _Kept:
        try:
            found = json.loads(self._path.read_text(encoding="utf-8"))
            pins = {str(who): str(hashed) for who, hashed in found["pins"].items()}
            return _Kept(str(found["mark"]), bool(found["restored"]), pins)
        except FileNotFoundError:
            return _Kept()
        except (OSError, ValueError, TypeError, KeyError, AttributeError):
            return _Kept(mark="unreadable")

    def _write(self, kept: _Kept) -> None:
        data = {"mark": kept.mark, "restored": kept.restored, "pins": kept.pins}
        with disk_errors():
            write_whole(self._path, json.dumps(data, ensure_ascii=False, indent=1).encode())

    @property
    def mark(self) -> str:
        """What is unlocked is so only while this is as it was."""
        return self._read().mark

    @property
    def restored(self) -> bool:
        """Whether a restored book stands, and no PIN was set since."""
        return self._read().restored

    def of(self, initials: str) -> str:
        """The hash of a lead's PIN, or "" where there is none."""
        return self._read().pins.get(initials, "")

    def put(self, initials: str, hashed: str) -> None:
        """Keep the hash of a lead's PIN. Raises ReadOnly, Full."""
        with _guard:
            kept = self._read()
            self._write(replace(kept, restored=False, pins={**kept.pins, initials: hashed}))

    def take_away(self, initials: str) -> None:
        """Forget one. Raises ReadOnly, Full."""
        with _guard:
            kept = self._read()
            left = {who: hashed for who, hashed in kept.pins.items() if who != initials}
            if left != kept.pins:
                self._write(replace(kept, pins=left))

    @contextmanager
    def forgotten(self, restored: bool) -> Iterator[None]:
        """Forget them all while another book is put in the place; where that fails they stand as
        they did. Parameters: restored, whether nobody is to act as a lead until a PIN is set at the
        machine. Raises ReadOnly, Full.
        """
        with _guard:
            before = self._read()
            self._write(_Kept(secrets.token_hex(8), restored))
            try:
                yield
            except BaseException:
                self._write(before)
                raise
