"""The secure address on the shop network: TLS in front of a listener on this machine.

The listener itself speaks plain HTTP. This front receives the encrypted connections of the network,
and passes each to a listener that only this machine can reach. That listener learns the address of
the client here, so that limits count for it.
"""

from __future__ import annotations

import asyncio
import socket
import ssl
import threading
from collections import Counter
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any

from ..core.errors import InputError
from ..services.devices.certificates import load_or_create
from .gate import limit_bodies
from .listener import listen
from .network import SECURE, Secure, mark_network

# Time of a handshake, and time to send the rest of an answer after its end, s.
HANDSHAKE_S, FLUSH_S = 10.0, 10.0
MAX_PER_ADDRESS = 200
CHUNK_BYTES = 65_536
START_S = 10.0


class SecureFront:
    """Accepts TLS connections and passes them to a port of this machine."""

    def __init__(self, hosts: Sequence[str], port: int, certificate: Path, inner_port: int) -> None:
        """Start to accept connections.

        Args:
            hosts: Addresses of this machine.
            port: The port, 0 for a free one on a single address.
            certificate: File with the key and the certificate of the server.
            inner_port: Port of the listener.

        Raises:
            InputError: The port is not available, or the certificate cannot be used.
        """
        self._context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        self._context.minimum_version = ssl.TLSVersion.TLSv1_2
        self._hosts, self.port, self._inner_port = hosts, port, inner_port
        self._clients: dict[int, str] = {}
        self._open: Counter[str] = Counter()
        self._loop = asyncio.new_event_loop()
        self._started = threading.Event()
        self._failure = ""
        try:
            self._context.load_cert_chain(certificate)
        except (OSError, ssl.SSLError) as error:
            raise InputError("certificate", str(certificate), f"cannot be used: {error}") from error
        self._thread = threading.Thread(target=self._run, name="secure", daemon=True)
        self._thread.start()
        self._started.wait(START_S)
        if self._failure:
            self._thread.join()
            raise InputError("port", port, self._failure)

    def get_client(self, address: tuple[str, int]) -> tuple[str, int]:
        """Return the address of the client of an inner connection."""
        return (self._clients.get(address[1], address[0]), address[1])

    def close(self) -> None:
        """Stop, and end all connections."""
        with suppress(RuntimeError):
            self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(timeout=5)

    def _run(self) -> None:
        asyncio.set_event_loop(self._loop)
        try:
            server = self._loop.run_until_complete(
                asyncio.start_server(
                    self._pass_on,
                    list(self._hosts),
                    self.port,
                    ssl=self._context,
                    ssl_handshake_timeout=HANDSHAKE_S,
                    backlog=256,
                )
            )
        except OSError as error:
            self._failure = f"cannot be used for the secure address ({error.strerror or error})"
            self._loop.close()
            self._started.set()
            return
        self.port = server.sockets[0].getsockname()[1]
        self._started.set()
        try:
            self._loop.run_forever()
        finally:
            server.close()
            tasks = asyncio.all_tasks(self._loop)
            for task in tasks:
                task.cancel()
            self._loop.run_until_complete(asyncio.gather(*tasks, return_exceptions=True))
            self._loop.close()

    async def _pass_on(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        client = str(writer.get_extra_info("peername")[0])
        if self._open[client] >= MAX_PER_ADDRESS:
            writer.transport.abort()
            return
        self._open[client] += 1
        own_port = 0
        try:
            # The client is known before the listener can accept the connection.
            inner = socket.socket()
            inner.bind(("127.0.0.1", 0))
            own_port = inner.getsockname()[1]
            self._clients[own_port] = client
            inner.setblocking(False)
            await self._loop.sock_connect(inner, ("127.0.0.1", self._inner_port))
            back_reader, back_writer = await asyncio.open_connection(sock=inner)
            await self._connect_both((reader, writer), (back_reader, back_writer))
        except OSError:
            writer.transport.abort()
        finally:
            self._clients.pop(own_port, None)
            self._open[client] -= 1
            if not self._open[client]:
                del self._open[client]

    async def _connect_both(
        self,
        front: tuple[asyncio.StreamReader, asyncio.StreamWriter],
        back: tuple[asyncio.StreamReader, asyncio.StreamWriter],
    ) -> None:
        """Pass data in both directions until one side ends.

        The listener decides about slow and idle clients, and closes its side.
        """
        requests = asyncio.create_task(_pump(front[0], back[1]))
        answers = asyncio.create_task(_pump(back[0], front[1]))
        try:
            await asyncio.wait({requests, answers}, return_when=asyncio.FIRST_COMPLETED)
            if requests.done() and not answers.done():
                # The client sends no more, and still waits for its answer.
                await asyncio.wait({answers}, timeout=FLUSH_S)
        finally:
            for task in (requests, answers):
                task.cancel()
            await asyncio.gather(requests, answers, return_exceptions=True)
            for _, writer in (back, front):
                await _close(writer)


async def _pump(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    try:
        while data := await reader.read(CHUNK_BYTES):
            writer.write(data)
            await writer.drain()
    except (OSError, ssl.SSLError):
        # The connection broke. The other side learns of its end.
        pass
    with suppress(OSError, ssl.SSLError):
        if writer.can_write_eof():
            writer.write_eof()


async def _close(writer: asyncio.StreamWriter) -> None:
    """Close a connection after the rest of its data, or end it."""
    writer.close()
    try:
        await asyncio.wait_for(writer.wait_closed(), FLUSH_S)
    except (TimeoutError, OSError, ssl.SSLError):
        writer.transport.abort()


def listen_securely(
    app: Any, data: Path, hosts: Sequence[str], names: Sequence[str], port: int
) -> Secure:
    """Create the secure listener of an application.

    Args:
        app: The application.
        data: The data folder, with the certificates.
        hosts: Addresses of this machine.
        names: Addresses and names for the certificate.
        port: The port.

    Raises:
        InputError: The port is not available.
        StoreError: The certificates cannot be written.
    """
    certificates = load_or_create(data, names)
    server = listen(mark_network(app, SECURE), 0, limit_bodies(app, is_remote=True), scheme="https")
    try:
        front = SecureFront(hosts, port, certificates.server_file, server.effective_port)
    except InputError:
        server.close()
        raise
    server.get_client = front.get_client
    return Secure(
        server, front.close, front.port, certificates.authority_der, certificates.fingerprint
    )
