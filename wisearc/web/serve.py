"""Serve the application on this machine."""

from __future__ import annotations

import logging
import sys
import threading
import webbrowser
from pathlib import Path

from ..core.errors import BadInput

THREADS = 8


def serve(data: Path, port: int, *, demo: bool, browser: bool) -> int:
    """Run until interrupted. Parameters: data folder; port on 127.0.0.1, 0 for a free one.

    Raises BadInput where the port cannot be had, StoreError where the data cannot be used.
    """
    from waitress import create_server

    from . import create_app

    if not 0 <= port <= 65535:
        raise BadInput("port", port, "must be from 0 to 65535")
    app = create_app(data)
    if demo:
        from ..services.demo import fill_if_empty

        fill_if_empty(app.extensions["store"])
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    try:
        server = create_server(app, host="127.0.0.1", port=port, threads=THREADS, ident=None)
    except OSError as error:
        raise BadInput(
            "port", port, f"cannot be used ({error.strerror}); stop what holds it or give another with --port"
        ) from error
    address = f"http://127.0.0.1:{server.effective_port}/"
    sys.stdout.write(f"Wise Arc is at {address}  (data in {data.resolve()}; Ctrl+C stops it)\n")
    sys.stdout.flush()
    if browser:
        threading.Timer(0.3, webbrowser.open, [address]).start()
    try:
        server.run()
    except KeyboardInterrupt:
        pass
    finally:
        server.close()
    return 0
