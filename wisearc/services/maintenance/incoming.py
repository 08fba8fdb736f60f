"""Uploaded archives and backups between their preview and the decision of the user.

They are in temporary folders of the data folder, which a start of the server removes.
"""

from __future__ import annotations

import json
import re
import secrets
import shutil
import time
from collections.abc import Callable
from pathlib import Path

import msgspec
from msgspec import Struct

from ...core.errors import InputError
from ...core.plan.plan import Plan
from ...store.errors import Missing
from ...store.folder import PART, wrap_disk_errors
from .archive_import import ArchivePreview, ImportChoice, load_archived_revision

PREVIEW, CHOICES = "preview.json", "choices.json"
# An upload without a decision is removed after this time.
MAX_AGE_S = 24 * 3600.0
_TOKEN = re.compile(r"[0-9a-f]{16}")


class Incoming(Struct, frozen=True):
    """An uploaded file: its token, the file, and its temporary folder."""

    token: str
    file: Path
    folder: Path

    @property
    def preview_file(self) -> Path:
        """Return the file for the preview of an archive."""
        return self.folder / PREVIEW

    @property
    def choices_file(self) -> Path:
        """Return the file for the decisions of the user."""
        return self.folder / CHOICES


def _build_folder(folder: Path, token: str) -> Path:
    return folder / f"incoming-{token}{PART}"


def receive(folder: Path, name: str, save: Callable[[Path], None]) -> Incoming:
    """Save an uploaded file.

    Args:
        folder: The data folder.
        name: A safe name of the file.
        save: Writes the file to a path.

    Raises:
        StoreError: The disk is full or fails.
    """
    _remove_old(folder)
    token = secrets.token_hex(8)
    place = _build_folder(folder, token)
    with wrap_disk_errors():
        (place / "file").mkdir(mode=0o700, parents=True)
        path = place / "file" / name
        try:
            save(path)
        except BaseException:
            shutil.rmtree(place, ignore_errors=True)
            raise
    return Incoming(token, path, place)


def _remove_old(folder: Path) -> None:
    for place in folder.glob(f"incoming-*{PART}"):
        if time.time() - place.stat().st_mtime > MAX_AGE_S:
            shutil.rmtree(place, ignore_errors=True)


def find_incoming(folder: Path, token: str) -> Incoming:
    """Return an uploaded file by its token.

    Args:
        folder: The data folder.
        token: The token.

    Raises:
        Missing: It was used, or the server was started again since.
    """
    place = _build_folder(folder, token)
    files = list((place / "file").glob("*")) if _TOKEN.fullmatch(token) else []
    if len(files) != 1:
        raise Missing("This file is no longer here. Nothing was imported. Choose it again in Shop.")
    return Incoming(token, files[0], place)


def drop(incoming: Incoming) -> None:
    """Remove an uploaded file."""
    shutil.rmtree(incoming.folder, ignore_errors=True)


def load_preview(incoming: Incoming) -> ArchivePreview | None:
    """Return the preview of an archive, or None if it is not ready."""
    try:
        return msgspec.json.decode(incoming.preview_file.read_bytes(), type=ArchivePreview)
    except (OSError, msgspec.MsgspecError):
        return None


def save_choices(incoming: Incoming, choice: ImportChoice) -> Path:
    """Write the decisions of the user to a file for the command.

    Args:
        incoming: The uploaded file.
        choice: The decisions.
    """
    data = {
        "skip": sorted(choice.skipped),
        "replace": sorted(choice.replaced),
        "with_shop": choice.with_shop,
    }
    with wrap_disk_errors():
        incoming.choices_file.write_text(json.dumps(data), encoding="utf-8")
    return incoming.choices_file


def read_choices(path: Path) -> ImportChoice:
    """Return the decisions in a file.

    Args:
        path: The file: {"skip": [], "replace": [], "with_shop": false}.

    Raises:
        InputError: The file is wrong.
    """
    try:
        data = json.loads(path.read_text(encoding="utf-8"))
        return ImportChoice(
            frozenset(map(str, data["skip"])),
            frozenset(map(str, data["replace"])),
            data["with_shop"] is True,
        )
    except (OSError, ValueError, TypeError, KeyError) as error:
        raise InputError("choices", path.name, "cannot be read") from error


def load_incoming_plan(incoming: Incoming, number: str) -> Plan:
    """Return the plan of the last revision of a procedure in an uploaded archive.

    Args:
        incoming: The archive.
        number: Number in the archive.

    Raises:
        InputError: The archive does not contain it.
    """
    _, plan = load_archived_revision(incoming.file, number)
    return plan
