"""Serve the application on this machine."""

from __future__ import annotations

import gc
import logging
import sys
import threading
import webbrowser
from contextlib import nullcontext, suppress
from pathlib import Path
from typing import Any

from ..core.errors import InputError
from ..services.errors import DiskFull
from ..services.maintenance.opening import Anchor, is_large, lock_folder
from .context import get_context


def serve(
    data: Path,
    port: int,
    *,
    demo: bool,
    browser: bool,
    address: str = "",
    network: str | None = None,
) -> int:
    """Serve until interrupted.

    Args:
        data: The data folder.
        port: Port on 127.0.0.1, 0 for a free one.
        demo: Whether to fill an empty library with the demo.
        browser: Whether to open a browser.
        address: A further address of the server.
        network: The network address to listen on, "" for all, None for the saved setting.

    Raises:
        InputError: The port is not available.
        StoreError: The data cannot be used, or another server uses it.
    """
    from . import create_app
    from .gate import ADDRESSES, limit_bodies, list_addresses
    from .listener import listen
    from .network import mark_network
    from .secure import listen_securely

    if not 0 <= port <= 65535:
        raise InputError("port", port, "must be from 0 to 65535")
    list_addresses(port, address)
    with lock_folder(data) or nullcontext() as held:
        if is_large(data):
            sys.stdout.write("Checking the library before the start …\n")
            sys.stdout.flush()
        app = create_app(data, held=held, on_progress=_print_progress)
        if demo and not get_context(app).store.reads_only:
            from ..services.maintenance.demo import fill_if_empty

            with suppress(DiskFull):
                fill_if_empty(get_context(app).store)
        logging.getLogger("waitress.queue").setLevel(logging.ERROR)
        try:
            server = listen(app, port, limit_bodies(app))
        except OSError as error:
            text = (
                f"cannot be used ({error.strerror}). Stop the other program or give another "
                "port with --port"
            )
            raise InputError("port", port, text) from error
        app.config[ADDRESSES] = list_addresses(server.effective_port, address)
        listener = get_context(app).network
        listener.ready(
            lambda host, at: listen(mark_network(app), at, limit_bodies(app, is_remote=True), host),
            server.effective_port,
            network or "",
            lambda hosts, names, at: listen_securely(app, data, hosts, names, at),
        )
        own_address = f"http://127.0.0.1:{server.effective_port}/"
        if held:
            held.at(own_address)
        sys.stdout.write(
            f"Wise Arc runs at {own_address}  (data in {data.resolve()}; press Ctrl+C to stop)\n"
        )
        if get_context(app).store.reads_only:
            sys.stdout.write(
                "The data folder is read-only: you can read the library, but not save.\n"
            )
        if get_context(app).store.is_full:
            sys.stdout.write("The disk is full: the library is read-only. Free some space.\n")
        if network is not None or get_context(app).devices.on:
            _listen_beyond(app, network is not None)
        sys.stdout.flush()
        anchor = Anchor(get_context(app).store.path) if held else None
        if anchor is not None:
            get_context(app).file_collector.start()
            get_context(app).background.start(anchor.run)
        # Objects of the start stay, so later garbage collections skip them.
        gc.freeze()
        if browser:
            threading.Timer(0.3, webbrowser.open, [own_address]).start()
        try:
            server.run()
        except KeyboardInterrupt:
            pass
        finally:
            listener.off()
            get_context(app).close()
            server.close()
            if anchor is not None:
                anchor.close()
    return 0


def _listen_beyond(app: Any, asked: bool) -> None:
    """Start the network listener, and print its meaning.

    Raises:
        InputError: It was requested and is not possible.
    """
    network = get_context(app).network
    try:
        network.on()
    except InputError as error:
        if asked:
            raise
        sys.stdout.write(f"Not available on the network: {error}\n")
        return
    sys.stdout.write(
        f"On the network at {network.addresses[0]}/ for paired devices (Shop, "
        "Devices). This is plain http: others on that network can read the traffic.\n"
    )
    if network.secure_addresses:
        sys.stdout.write(
            f"Secure at {network.secure_addresses[0]}/. Each device trusts it once: "
            f"{network.addresses[0]}/trust\n"
        )
    elif network.secure_problem:
        sys.stdout.write(f"No secure address: {network.secure_problem}\n")


def _print_progress(done: int, of: int) -> None:
    sys.stdout.write(f"Indexing the library after a change of version: {done} of {of}\n")
    sys.stdout.flush()
