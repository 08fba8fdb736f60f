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
from collections.abc import Callable, Sequence
from contextlib import suppress
from typing import Any
from wsgiref.types import WSGIEnvironment

from msgspec import Struct

from ..core.errors import InputError
from ..services.errors import StoreError

FROM_NETWORK = "wisearc.beyond"
PLAIN, SECURE = "plain", "secure"
# The port of the secure address follows the port of the plain one.
SECURE_PORT_STEP = 1
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


def mark_network(app: Callable[..., Any], mark: str = PLAIN) -> Callable[..., Any]:
    """Return an application with all requests marked as network requests.

    Args:
        app: The application.
        mark: The kind of listener.
    """

    def beyond(environ: WSGIEnvironment, start: Any) -> Any:
        return app({**environ, FROM_NETWORK: mark}, start)

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


class Secure(Struct, frozen=True):
    """The secure listener: its server, its end, its port, and the authority that a phone trusts."""

    server: Any
    close: Callable[[], None]
    port: int
    authority_der: bytes
    fingerprint: str


# Its arguments are the addresses, the names of the certificate and the port.
ListenSecurely = Callable[[Sequence[str], Sequence[str], int], Secure]


class Network:
    """The network listeners.

    `listen` creates a server for an address and a port, and `listen_securely` one with TLS.
    """

    def __init__(self) -> None:
        """Create a switched-off network."""
        self._guard = threading.Lock()
        self._servers: list[tuple[Any, threading.Thread]] = []
        self._stop = threading.Event()
        self._listen: Callable[[str, int], Any] | None = None
        self._listen_securely: ListenSecurely | None = None
        self._secure: Secure | None = None
        self.port = 0
        self.wanted = ""
        self.addresses: tuple[str, ...] = ()
        self.secure_addresses: tuple[str, ...] = ()
        # Why there is no secure address, or "".
        self.secure_problem = ""

    def ready(
        self,
        listen: Callable[[str, int], Any],
        port: int,
        wanted: str = "",
        listen_securely: ListenSecurely | None = None,
    ) -> None:
        """Set the server factories, the port, and optionally the only address.

        Args:
            listen: Creates a server for an address and a port.
            port: The port.
            wanted: The address, or "" for all.
            listen_securely: Creates a server with TLS, or None.
        """
        self._listen, self.port, self.wanted = listen, port, wanted
        self._listen_securely = listen_securely

    @property
    def authority(self) -> Secure | None:
        """Return the secure listener with its authority, or None."""
        return self._secure

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
                self._run(server)
            names = _list_names([host for host, _ in servers])
            end = f":{self.port}" if self.port != 80 else ""
            self.addresses = tuple(f"http://{name}{end}" for name in names)
            self._start_securely([host for host, _ in servers], names)

    def _run(self, server: Any) -> None:
        thread = threading.Thread(
            target=_serve, args=(server, self._stop), name="beyond", daemon=True
        )
        thread.start()
        self._servers.append((server, thread))

    def _start_securely(self, hosts: Sequence[str], names: Sequence[str]) -> None:
        """Start the secure listener, or keep the reason why there is none."""
        if self._listen_securely is None:
            return
        try:
            self._secure = self._listen_securely(hosts, names, self.port + SECURE_PORT_STEP)
        except (InputError, StoreError) as error:
            self.secure_problem = str(error)
            return
        self.secure_problem = ""
        self._run(self._secure.server)
        end = f":{self._secure.port}" if self._secure.port != 443 else ""
        self.secure_addresses = tuple(f"https://{name}{end}" for name in names)

    def off(self) -> None:
        """Stop to listen, and end its connections."""
        with self._guard:
            if self._secure is not None:
                self._secure.close()
            self._stop.set()
            for _, thread in self._servers:
                thread.join(timeout=5)
            self._servers, self.addresses = [], ()
            self._secure, self.secure_addresses = None, ()


def _list_names(hosts: Sequence[str]) -> list[str]:
    """Return the addresses of this machine and its names on the network."""
    name = socket.gethostname().lower()
    named = [name, f"{name.removesuffix('.local')}.local"] if name else []
    return list(dict.fromkeys([*hosts, *named]))


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
