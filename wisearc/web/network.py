"""Network access.

A second listener on the shop network, switched on and off while the first continues. Its requests
are marked, and only paired devices are served (`gate.py`). Headers of a proxy are not trusted: a
request with another host name, or one that was forwarded, counts as a network request on any
listener.
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

FROM_NETWORK = "wisearc.beyond"
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
    """Return whether a request comes from the network.

    In doubt it does.
    """
    host = environ.get("HTTP_HOST", "").lower().rpartition(":")
    name = host[0] or host[2]
    return (
        FROM_NETWORK in environ
        or name not in _LOOPBACK
        or any(_PASSED_ON.fullmatch(key) for key in environ)
    )


def mark_network(app: Callable[..., Any]) -> Callable[..., Any]:
    """Return an application with all requests marked as network requests."""

    def beyond(environ: WSGIEnvironment, start: Any) -> Any:
        return app({**environ, FROM_NETWORK: "yes"}, start)

    return beyond


def list_own_addresses() -> list[str]:
    """Return the addresses of this machine on its networks (IPv4), without any request."""
    addresses: list[str] = []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe, suppress(OSError):
        # Nothing is sent. The socket only shows the local address.
        probe.connect(("10.255.255.255", 9))
        addresses.append(str(probe.getsockname()[0]))
    with suppress(OSError):
        addresses += [
            str(info[4][0])
            for info in socket.getaddrinfo(socket.gethostname(), None, socket.AF_INET)
        ]
    return [
        address for address in dict.fromkeys(addresses) if not address.startswith(("127.", "0."))
    ]


class Network:
    """The network listeners.

    `listen` creates a server for an address and a port.
    """

    def __init__(self) -> None:
        """Create a switched-off network."""
        self._guard = threading.Lock()
        self._servers: list[tuple[Any, threading.Thread]] = []
        self._stop = threading.Event()
        self._listen: Callable[[str, int], Any] | None = None
        self.port = 0
        self.wanted = ""
        self.addresses: tuple[str, ...] = ()

    def ready(self, listen: Callable[[str, int], Any], port: int, wanted: str = "") -> None:
        """Set the server factory, the port, and optionally the only address.

        Args:
            listen: Creates a server for an address and a port.
            port: The port.
            wanted: The address, or "" for all.
        """
        self._listen, self.port, self.wanted = listen, port, wanted

    @property
    def can(self) -> bool:
        """Return whether it can be switched on, which needs the server of the product."""
        return self._listen is not None

    @property
    def is_on(self) -> bool:
        """Return whether it is on."""
        return bool(self._servers)

    def on(self) -> None:
        """Start to listen.

        Raises:
            InputError: No address is available.
        """
        with self._guard:
            if self._servers or self._listen is None:
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
                self._servers.append((server, thread))
            end = f":{self.port}" if self.port != 80 else ""
            name = socket.gethostname().lower()
            named = (
                (f"http://{name}{end}", f"http://{name.removesuffix('.local')}.local{end}")
                if name
                else ()
            )
            self.addresses = (*(f"http://{host}{end}" for host, _ in servers), *named)

    def off(self) -> None:
        """Stop to listen, and end its connections."""
        with self._guard:
            self._stop.set()
            for _, thread in self._servers:
                thread.join(timeout=5)
            self._servers, self.addresses = [], ()


def _serve(server: Any, stop: threading.Event) -> None:
    """Run a server until it is stopped."""
    try:
        while not stop.is_set():
            server.asyncore.loop(timeout=0.25, map=server._map, use_poll=True, count=1)
    finally:
        server.task_dispatcher.shutdown(timeout=2)
        for channel in list(server.active_channels.values()):
            channel.handle_close()
        server.close()
