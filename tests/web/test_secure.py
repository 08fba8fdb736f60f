"""The secure address: certificates of the shop, and TLS in front of a listener."""

from __future__ import annotations

import ipaddress
import socket
import ssl
import tempfile
import threading
import time
import unittest
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from cryptography import x509
from cryptography.x509.verification import PolicyBuilder, Store

from tests.web.case import WebCase
from wisearc.core.errors import InputError
from wisearc.services.devices import certificates
from wisearc.services.devices.certificates import ShopCertificates, load_or_create
from wisearc.web import secure
from wisearc.web.context import get_context
from wisearc.web.network import Network, Secure
from wisearc.web.secure import SecureFront, listen_securely

NAMES = ("192.168.7.5", "bench", "bench.local")


class Certificates(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def create(self, names: tuple[str, ...] = NAMES) -> ShopCertificates:
        return load_or_create(self.folder, names)

    def parse(self, made: ShopCertificates) -> tuple[x509.Certificate, x509.Certificate]:
        pem = made.server_file.read_bytes()
        return x509.load_pem_x509_certificates(pem)[0], x509.load_der_x509_certificate(
            made.authority_der
        )

    def test_a_chain_that_a_browser_accepts(self) -> None:
        """Checked by the verifier of the library (RFC 5280), and by OpenSSL below."""
        made = self.create()
        server, authority = self.parse(made)
        for name in NAMES:
            subject = (
                x509.IPAddress(ipaddress.ip_address(name))
                if name[0].isdigit()
                else x509.DNSName(name)
            )
            verifier = PolicyBuilder().store(Store([authority])).build_server_verifier(subject)
            self.assertEqual(len(verifier.verify(server, [])), 2)
        # Phones refuse a validity of more than 398 days.
        self.assertLessEqual(
            server.not_valid_after_utc - server.not_valid_before_utc, timedelta(398)
        )
        self.assertEqual(made.fingerprint.count(" "), 31)

    def test_the_authority_certifies_no_other_site(self) -> None:
        _, authority = self.parse(self.create())
        self.assertTrue(authority.extensions.get_extension_for_class(x509.NameConstraints).critical)
        now = datetime.now(UTC)
        pair = certificates._read(self.folder / certificates.FOLDER / certificates.AUTHORITY)
        assert pair is not None
        for name in ("example.com", "8.8.8.8"):
            _, forged = certificates._create_server(pair, (name,), now)
            subject = certificates._list_names((name,))[0]
            verifier = PolicyBuilder().store(Store([authority])).build_server_verifier(subject)
            with self.subTest(name), self.assertRaises(Exception) as caught:
                verifier.verify(forged, [])
            self.assertIn("onstraint", str(caught.exception))

    def test_kept_renewed_and_extended(self) -> None:
        first = self.create()
        server = self.parse(first)[0]
        again = self.create()
        self.assertEqual(first.fingerprint, again.fingerprint)
        self.assertEqual(self.parse(again)[0], server)
        # Another private address: a new server certificate, the same trust.
        other = self.create(("192.168.9.9", *NAMES[1:]))
        self.assertEqual(other.fingerprint, first.fingerprint)
        self.assertNotEqual(self.parse(other)[0], server)
        # A name that the authority may not certify: another authority.
        self.assertNotEqual(self.create((*NAMES, "welding")).fingerprint, first.fingerprint)
        before = self.parse(self.create())
        near = datetime.now(UTC) + timedelta(days=certificates.SERVER_DAYS - 20)
        with mock.patch.object(certificates, "datetime") as clock:
            clock.now.return_value = near
            renewed = self.parse(self.create())
        self.assertEqual(renewed[1], before[1])
        self.assertNotEqual(renewed[0], before[0])

    def test_keys_are_private_and_damaged_ones_are_replaced(self) -> None:
        made = self.create()
        folder = made.server_file.parent
        for file in folder.iterdir():
            self.assertEqual(file.stat().st_mode & 0o077, 0)
        self.assertEqual(folder.stat().st_mode & 0o077, 0)
        made.server_file.write_text("damaged")
        self.create()
        ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER).load_cert_chain(made.server_file)


class OverTls(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.certificates = load_or_create(self.folder, ("127.0.0.1", "bench.local"))
        self.network: Network = get_context(self.app).network
        self.network.ready(
            lambda host, port: self.fail("no plain listener here"),
            0,
            "127.0.0.1",
            lambda hosts, names, port: listen_securely(self.app, self.folder, hosts, names, port),
        )
        self.secure = listen_securely(
            self.app, self.folder, ["127.0.0.1"], ["127.0.0.1", "bench.local"], 0
        )
        self.network._secure = self.secure
        self.network._run(self.secure.server)
        self.network.secure_addresses = (f"https://127.0.0.1:{self.secure.port}",)
        self.addCleanup(self.network.off)

    def connect(self) -> ssl.SSLSocket:
        context = ssl.create_default_context(cadata=self.secure.authority_der)
        plain = socket.create_connection(("127.0.0.1", self.secure.port), timeout=10)
        self.addCleanup(plain.close)
        wrapped = context.wrap_socket(plain, server_hostname="127.0.0.1")
        self.addCleanup(wrapped.close)
        return wrapped

    def ask(self, path: str, *more: str) -> str:
        with self.connect() as line:
            head = [f"GET {path} HTTP/1.1", f"Host: 127.0.0.1:{self.secure.port}", *more]
            line.sendall("\r\n".join([*head, "Connection: close", "", ""]).encode())
            parts = []
            while part := line.recv(65_536):
                parts.append(part)
        return b"".join(parts).decode(errors="replace")

    def test_a_verified_connection_to_the_application(self) -> None:
        page = self.ask("/let-in")
        self.assertIn("200 OK", page)
        self.assertIn("Pair this device", page)
        # Everything is for paired devices here too.
        self.assertIn("303", self.ask("/").partition("\r\n")[0])
        # The plain address could not replace a cookie with this attribute.
        self.assertNotIn("Secure", page)

    def test_the_trust_page(self) -> None:
        page = self.ask("/trust")
        self.assertIn(self.secure.fingerprint, page)
        self.assertIn("This page is secure", page)
        sent = self.ask("/trust/wise-arc.crt")
        self.assertIn("application/x-x509-ca-cert", sent)

    def test_the_client_is_the_one_in_front(self) -> None:
        seen: list[str] = []

        def remember(address: tuple[str, int]) -> tuple[str, int]:
            seen.append(front.get_client(address)[0])
            return front.get_client(address)

        front = self.secure.close.__self__
        self.secure.server.get_client = remember
        with mock.patch.object(front, "_clients", {}) as clients:
            self.ask("/let-in")
            # Nothing of a closed connection stays.
            for _ in range(100):
                if not clients:
                    break
                time.sleep(0.02)
            self.assertEqual(clients, {})
        self.assertEqual(seen, ["127.0.0.1"])

    def test_clients_without_tls_or_patience(self) -> None:
        with socket.create_connection(("127.0.0.1", self.secure.port), timeout=10) as plain:
            plain.sendall(b"GET / HTTP/1.1\r\n\r\n")
            self.assertNotIn(b"HTTP", plain.recv(100) or b"")
        # An unfinished handshake blocks nobody.
        with socket.create_connection(("127.0.0.1", self.secure.port), timeout=10):
            self.assertIn("200 OK", self.ask("/let-in"))

    def test_connections_of_one_address_are_limited(self) -> None:
        with mock.patch.object(secure, "MAX_PER_ADDRESS", 3):
            lines = [self.connect() for _ in range(3)]
            time.sleep(0.2)
            with self.assertRaises(OSError):
                line = self.connect()
                line.sendall(b"GET /let-in HTTP/1.1\r\n\r\n")
                if not line.recv(10):
                    raise OSError
            for line in lines:
                line.close()
            for _ in range(100):
                with suppress(OSError):
                    if "200 OK" in self.ask("/let-in"):
                        break
                time.sleep(0.02)
            else:
                self.fail("the places of closed connections stay taken")

    def test_a_port_in_use(self) -> None:
        with self.assertRaisesRegex(InputError, "secure address"):
            SecureFront(["127.0.0.1"], self.secure.port, self.certificates.server_file, 1)
        before = threading.active_count()
        with self.assertRaises(InputError):
            SecureFront(["127.0.0.1"], 0, self.folder / "none.pem", 1)
        self.assertEqual(threading.active_count(), before)


class WithoutTls(WebCase):
    def test_the_network_works_without_a_secure_address(self) -> None:
        network: Network = get_context(self.app).network

        def refuse(hosts: Any, names: Any, port: int) -> Secure:
            raise InputError("port", port, "is used by another program")

        network._listen_securely = refuse
        network._start_securely(["127.0.0.1"], ["127.0.0.1"])
        self.assertEqual(network.secure_addresses, ())
        self.assertIn("used by another program", network.secure_problem)
        page = self.client.get("/trust").get_data(as_text=True)
        self.assertIn("timed mode", page)
        self.assertIn("the network is off", page)
        self.assertEqual(self.client.get("/trust/wise-arc.crt").status_code, 404)
