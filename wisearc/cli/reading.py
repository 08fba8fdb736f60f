"""What a command is given: figures and files, each refused with one clear line."""

from __future__ import annotations

import sys
from pathlib import Path


def parse_figure(name: str, text: str | None) -> float | None:
    """A figure of the command line. Raises BadInput."""
    from ..core.errors import BadInput

    try:
        return None if text is None else float(text)
    except ValueError as error:
        raise BadInput(name, text, "must be a number, such as 25.4") from error


def read(name: str, what: str = "joint") -> str:
    """The text of a file, or of standard input for -. Raises BadInput."""
    from ..core.errors import BadInput
    from ..services.planning.planning import LARGEST_FILE

    try:
        if name == "-":
            data = sys.stdin.buffer.read(LARGEST_FILE + 1)
        else:
            with Path(name).open("rb") as file:
                data = file.read(LARGEST_FILE + 1)
        if len(data) > LARGEST_FILE:
            raise BadInput(
                "file", name, f"exceeds {LARGEST_FILE // 1048576} MB. Give a smaller {what} file"
            )
        return data.decode("utf-8-sig")
    except (UnicodeDecodeError, ValueError) as error:
        raise BadInput("file", name, f"is not UTF-8 text. Save the {what} file as UTF-8") from error
    except OSError as error:
        raise BadInput(
            "file", name, f"cannot be read ({error.strerror}). Give the path of a {what} file"
        ) from error
