"""A simulated device on a local port.

It sends JSON lines to all clients, starting with the first one.
"""

from __future__ import annotations

import json
import socket
import threading
import time
from collections.abc import Callable, Iterator, Mapping


class Line:
    """A device that sends the output of `make`, each at its `time_s`.

    `port` 0 uses a free port, and `speed` is relative to real time.
    """

    def __init__(
        self, make: Callable[[], Iterator[Mapping[str, float]]], port: int = 0, speed: float = 1.0
    ) -> None:
        """Open the port.

        Args:
            make: Returns the messages.
            port: The port, 0 for a free one.
            speed: Speed relative to real time.
        """
        self._make, self._speed = make, speed
        self._socket = socket.create_server(("127.0.0.1", port))
        self.port: int = self._socket.getsockname()[1]
        self._clients: list[socket.socket] = []
        self._guard = threading.Lock()
        self._connected = threading.Event()
        self._ended = threading.Event()

    def serve(self) -> None:
        """Accept clients and send until closed or until the output ends."""
        threading.Thread(target=self._accept, daemon=True).start()
        while not self._connected.wait(0.1):
            if self._ended.is_set():
                return
        begun = time.monotonic()
        for row in self._make():
            wait = row["time_s"] / self._speed - (time.monotonic() - begun)
            if self._ended.wait(max(0.0, wait)):
                break
            self._send(json.dumps(row) + "\n")
        self.close()

    def _accept(self) -> None:
        while not self._ended.is_set():
            try:
                client, _ = self._socket.accept()
            except OSError:
                return
            client.settimeout(1.0)
            with self._guard:
                self._clients.append(client)
            self._connected.set()

    def _send(self, line: str) -> None:
        with self._guard:
            for client in list(self._clients):
                try:
                    client.sendall(line.encode())
                except OSError:
                    client.close()
                    self._clients.remove(client)

    def close(self) -> None:
        """Stop, and disconnect all clients."""
        self._ended.set()
        self._socket.close()
        with self._guard:
            for client in self._clients:
                client.close()
            self._clients.clear()
