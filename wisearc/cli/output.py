"""Output files of commands."""

from __future__ import annotations

from pathlib import Path

from ..core.errors import InputError


def write_output(path: Path, data: bytes) -> None:
    """Write an output file.

    Args:
        path: The file.
        data: Its contents.

    Raises:
        InputError: It cannot be written.
    """
    try:
        path.write_bytes(data)
    except OSError as error:
        raise InputError(
            "--out", path.name, f"cannot be written ({error.strerror}). Give another path"
        ) from error
