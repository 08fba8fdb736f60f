"""Arguments of a command: figures and files, each refused with one clear line."""

from __future__ import annotations

import sys
from pathlib import Path


def parse_figure(name: str, text: str | None) -> float | None:
    """Parse a figure of the command line.

    Args:
        name: Name of the option.
        text: The text, or None.

    Raises:
        InputError: The text is not a number.
    """
    from ..core.errors import InputError

    try:
        return None if text is None else float(text)
    except ValueError as error:
        raise InputError(name, text, "must be a number, such as 25.4") from error


def read(name: str, subject: str = "joint", max_bytes: int = 0) -> str:
    """Return the text of a file, or of standard input for -.

    Args:
        name: Name of the file.
        subject: Its kind, for the error.
        max_bytes: Maximum size, 0 for that of a joint file.

    Raises:
        InputError: The file cannot be read.
    """
    from ..core.errors import InputError
    from ..services.planning.planner import MAX_FILE_BYTES

    maximum = max_bytes or MAX_FILE_BYTES
    try:
        if name == "-":
            data = sys.stdin.buffer.read(maximum + 1)
        else:
            with Path(name).open("rb") as file:
                data = file.read(maximum + 1)
        if len(data) > maximum:
            raise InputError(
                "file",
                name,
                f"exceeds {maximum // 1048576} MB. Give a smaller {subject} file",
            )
        return data.decode("utf-8-sig")
    except (UnicodeDecodeError, ValueError) as error:
        raise InputError(
            "file", name, f"is not UTF-8 text. Save the {subject} file as UTF-8"
        ) from error
    except OSError as error:
        raise InputError(
            "file", name, f"cannot be read ({error.strerror}). Give the path of a {subject} file"
        ) from error
