"""Ends a command together with the server that started it."""

from __future__ import annotations

import os
import threading
from contextlib import suppress

# The variable has the descriptor of a pipe. The other end is open while the server runs.
VARIABLE = "WISEARC_LIFELINE"
# Exit codes of a command whose server ended, and of a command that failed.
SERVER_ENDED, FAILED = 3, 70


def exit_with_server() -> None:
    """Exit this process when its server ends, even if the server is killed.

    A command that a user starts has no server and is not affected.
    """
    descriptor = os.environ.pop(VARIABLE, "")
    if not descriptor.isdecimal():
        return

    def wait() -> None:
        with suppress(OSError):
            os.read(int(descriptor), 1)
        os._exit(SERVER_ENDED)

    threading.Thread(target=wait, daemon=True).start()
