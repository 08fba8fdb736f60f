"""Beyond this machine: a second listener on the shop's network, switched on and off while the first
goes on.

What comes in by it is marked, and whoever asks is let in as a device or sees nothing (`gate.py`).
Nothing that a proxy says of a request is believed: what names another host, or has been passed on,
counts as coming from beyond, whichever listener took it.
"""

from __future__ import annotations

import re
import socket
import threading
from collections.abc import Callable
from contextlib import suppress
from typing import Any
from wsgiref.types import WSGIEnvironment

from ..core.errors import InputError

BEYOND = "wisearc.beyond"
_LOOPBACK = ("127.0.0.1", "localhost")
# A proxy adds such headers. Their names differ.
_PASSED_ON = re.compile(
    r"HTTP_(VIA|.*FORWARD.*|.*PROXY.*|.*ORIGINAL.*|.*REMOTE.*|(.*_)?CLIENT_.*|(.*_)?IP)"
)
NO_ADDRESS = (
    "was not found: this machine has no network address. Connect it, or give the "
    "address with --shop-network ADDRESS"
)


def is_beyond(environ: WSGIEnvironment) -> bool:
    """Whether a request comes from beyond this machine, as far as can be told; in doubt it does."""
    host = environ.get("HTTP_HOST", "").lower().rpartition(":")
    name = host[0] or host[2]
    return (
        BEYOND in environ
        or name not in _LOOPBACK
        or any(_PASSED_ON.fullmatch(key) for key in environ)
    )


def mark_network(app: Callable[..., Any]) -> Callable[..., Any]:
    """An application whose requests are marked as coming from beyond."""

    def beyond(environ: WSGIEnvironment, start: Any) -> Any:
        return app({**environ, BEYOND: "yes"}, start)

    return beyond


def list_own_addresses() -> list[str]:
    """This machine's addresses on its networks (IPv4), without asking anyone."""
    found: list[str] = []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe, suppress(OSError):
        # nothing is sent: it only says by which address it would go
        probe.connect(("10.255.255.255", 9))
        found.append(str(probe.getsockname()[0]))
    with suppress(OSError):
        found += [
            str(info[4][0])
            for info in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)
        ]
    return [one for one in dict.fromkeys(found) if not one.startswith(("127.", "0."))]


class Network:
    """The listeners beyond this machine. Parameters of `on`: listen, makes a server of an address
    and port.
    """

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._running: list[tuple[Any, threading.Thread]] = []
        self._stop = threading.Event()
        self._listen: Callable[[str, int], Any] | None = None
        self.port = 0
        self.wanted = ""
        self.addresses: tuple[str, ...] = ()

    def ready(self, listen: Callable[[str, int], Any], port: int, wanted: str = "") -> None:
        """Say how it is listened, on which port, and on which address if not on all of this
        machine's.
        """
        self._listen, self.port, self.wanted = listen, port, wanted

    @property
    def can(self) -> bool:
        """Whether it can be switched on: where the application is served by the product's own
        server.
        """
        return self._listen is not None

    @property
    def is_on(self) -> bool:
        """Whether it listens."""
        return bool(self._running)

    def on(self) -> None:
        """Listen. Raises InputError where no address can be had."""
        with self._guard:
            if self._running or self._listen is None:
                return
            hosts = [self.wanted] if self.wanted else list_own_addresses()
            if not hosts:
                raise InputError("network", None, NO_ADDRESS)
            servers, failed = [], ""
            for host in hosts:
                try:
                    servers.append((host, self._listen(host, self.port)))
                except OSError as error:
                    failed = (
                        f"cannot be used ({error.strerror or error}). Give another with "
                        "--shop-network ADDRESS"
                    )
            if not servers:
                raise InputError("address", f"{hosts[0]}:{self.port}", failed)
            self._stop = threading.Event()
            for _, server in servers:
                thread = threading.Thread(
                    target=_serve, args=(server, self._stop), name="beyond", daemon=True
                )
                thread.start()
                self._running.append((server, thread))
            end = f":{self.port}" if self.port != 80 else ""
            name = socket.gethostname().lower()
            named = (
                (f"http://{name}{end}", f"http://{name.removesuffix('.local')}.local{end}")
                if name
                else ()
            )
            self.addresses = (*(f"http://{host}{end}" for host, _ in servers), *named)

    def off(self) -> None:
        """Listen no more; what is under way there is ended."""
        with self._guard:
            self._stop.set()
            for _, thread in self._running:
                thread.join(timeout=5)
            self._running, self.addresses = [], ()


def _serve(server: Any, stop: threading.Event) -> None:
    """Run a server until it is told to stop."""
    try:
        while not stop.is_set():
            server.asyncore.loop(timeout=0.25, map=server._map, use_poll=True, count=1)
    finally:
        server.task_dispatcher.shutdown(timeout=2)
        for channel in list(server.active_channels.values()):
            channel.handle_close()
        server.close()
