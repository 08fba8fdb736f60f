"""A command in this process: its output and exit code, as from a separate process."""

from __future__ import annotations

import io
import subprocess
import sys
from unittest.mock import patch

from wisearc.cli import main


def wisearc(*args: str, stdin: str | bytes = "") -> subprocess.CompletedProcess[bytes]:
    """Run a command here.

    One test shows that a separate process gives the same.
    """
    input_data = stdin if isinstance(stdin, bytes) else stdin.encode()
    out, err = io.BytesIO(), io.BytesIO()
    streams = {
        "stdin": io.TextIOWrapper(io.BytesIO(input_data), encoding="utf-8"),
        "stdout": io.TextIOWrapper(out, encoding="utf-8", write_through=True),
        "stderr": io.TextIOWrapper(err, encoding="utf-8", write_through=True),
    }
    with patch.multiple(sys, **streams):
        try:
            code = main(list(args))
        except SystemExit as ended:
            code = ended.code if isinstance(ended.code, int) else 1
        streams["stdout"].flush()
    return subprocess.CompletedProcess(args, code, out.getvalue(), err.getvalue())
