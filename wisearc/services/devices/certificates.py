"""The certificates of a shop: its authority, and the certificate of this server.

A phone trusts the authority once. The authority is limited to private addresses and local names, so
that its key can certify no other site. The keys stay in the data folder, and are in no
backup or archive.
"""

from __future__ import annotations

import ipaddress
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from ...store.folder import wrap_disk_errors, write_complete

if TYPE_CHECKING:
    from cryptography import x509
    from cryptography.hazmat.primitives.asymmetric.ec import EllipticCurvePrivateKey

FOLDER = "certificates"
AUTHORITY, SERVER = "authority.pem", "server.pem"
# Phones refuse a server certificate with a longer validity.
AUTHORITY_DAYS, SERVER_DAYS, RENEW_DAYS = 3650, 390, 30
AUTHORITY_NAME = "Wise Arc, this shop"
# The addresses of a private network (RFC 1918, RFC 3927).
PRIVATE = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16")


class ShopCertificates(Struct, frozen=True):
    """The file with key and certificate of the server, and the certificate of its authority.

    `fingerprint` is the SHA-256 of the authority, in groups of two digits.
    """

    server_file: Path
    authority_der: bytes
    fingerprint: str


def load_or_create(data: Path, names: Sequence[str]) -> ShopCertificates:
    """Return the certificates of a data folder, created or renewed as necessary.

    Args:
        data: The data folder.
        names: Addresses and names of this machine on its networks.

    Raises:
        StoreError: The files cannot be written.
    """
    from cryptography.hazmat.primitives import hashes
    from cryptography.hazmat.primitives.serialization import Encoding

    folder = data / FOLDER
    with wrap_disk_errors():
        folder.mkdir(mode=0o700, exist_ok=True)
    now = datetime.now(UTC)
    authority = _read(folder / AUTHORITY)
    # A name of this machine that the authority may not certify needs another authority.
    if authority is None or not _is_valid(authority[1], now) or not _covers(authority[1], names):
        authority = _create_authority(names, now)
        _write(folder / AUTHORITY, *authority)
    server = _read(folder / SERVER)
    if server is None or not _is_current(server[1], authority[1], names, now):
        _write(folder / SERVER, *_create_server(authority, names, now), authority[1])
    print_bytes = authority[1].fingerprint(hashes.SHA256())
    return ShopCertificates(
        folder / SERVER, authority[1].public_bytes(Encoding.DER), print_bytes.hex(" ", 1).upper()
    )


def _read(file: Path) -> tuple[EllipticCurvePrivateKey, x509.Certificate] | None:
    """Return the key and the first certificate of a file, or None if it is missing or damaged."""
    from cryptography import x509
    from cryptography.hazmat.primitives.asymmetric.ec import EllipticCurvePrivateKey
    from cryptography.hazmat.primitives.serialization import load_pem_private_key

    try:
        data = file.read_bytes()
        key = load_pem_private_key(data, None)
        certificate = x509.load_pem_x509_certificates(data)[0]
    except (OSError, ValueError, TypeError, IndexError):
        return None
    return (key, certificate) if isinstance(key, EllipticCurvePrivateKey) else None


def _write(file: Path, key: EllipticCurvePrivateKey, *certificates: x509.Certificate) -> None:
    from cryptography.hazmat.primitives.serialization import (
        Encoding,
        NoEncryption,
        PrivateFormat,
    )

    parts = [key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())]
    parts += [certificate.public_bytes(Encoding.PEM) for certificate in certificates]
    with wrap_disk_errors():
        write_complete(file, b"".join(parts))


def _is_valid(certificate: x509.Certificate, now: datetime) -> bool:
    renew_at = certificate.not_valid_after_utc - timedelta(days=RENEW_DAYS)
    return certificate.not_valid_before_utc <= now < renew_at


def _is_current(
    certificate: x509.Certificate,
    authority: x509.Certificate,
    names: Sequence[str],
    now: datetime,
) -> bool:
    from cryptography import x509
    from cryptography.exceptions import InvalidSignature

    try:
        certificate.verify_directly_issued_by(authority)
    except (ValueError, TypeError, InvalidSignature):
        return False
    alternatives = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName)
    certified = {str(name.value) for name in alternatives.value}
    return _is_valid(certificate, now) and set(names) <= certified


def _list_names(names: Sequence[str]) -> list[x509.GeneralName]:
    from cryptography import x509

    return [
        x509.DNSName(name) if (ip := _parse_ip(name)) is None else x509.IPAddress(ip)
        for name in names
    ]


def _parse_ip(name: str) -> ipaddress.IPv4Address | ipaddress.IPv6Address | None:
    try:
        return ipaddress.ip_address(name)
    except ValueError:
        return None


def _list_permitted(names: Sequence[str]) -> list[x509.GeneralName]:
    """Return the names that the authority may certify: private addresses, and those of now."""
    from cryptography import x509

    networks = [ipaddress.ip_network(block) for block in PRIVATE]
    ips = [ip for name in names if (ip := _parse_ip(name)) is not None]
    outside = [ip for ip in ips if not any(ip in network for network in networks)]
    hosts = [name for name in names if _parse_ip(name) is None]
    return [
        x509.DNSName("local"),
        *(x509.DNSName(host) for host in hosts if not host.endswith(".local")),
        *(x509.IPAddress(network) for network in networks),
        *(x509.IPAddress(ipaddress.ip_network(ip)) for ip in outside),
    ]


def _covers(authority: x509.Certificate, names: Sequence[str]) -> bool:
    """Return whether the authority may certify these names."""
    from cryptography import x509

    limits = authority.extensions.get_extension_for_class(x509.NameConstraints).value
    permitted = [str(name.value) for name in limits.permitted_subtrees or ()]
    return all(str(name.value) in permitted for name in _list_permitted(names))


def _build(
    subject: str,
    issuer: str,
    key: EllipticCurvePrivateKey,
    days: int,
    now: datetime,
) -> x509.CertificateBuilder:
    from cryptography import x509
    from cryptography.x509.oid import NameOID

    def name_as(text: str) -> x509.Name:
        return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, text)])

    return (
        x509.CertificateBuilder()
        .subject_name(name_as(subject))
        .issuer_name(name_as(issuer))
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        # The clock of a phone can be late.
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=days))
    )


def _limit_use(is_authority: bool) -> x509.KeyUsage:
    from cryptography import x509

    return x509.KeyUsage(
        digital_signature=not is_authority,
        content_commitment=False,
        key_encipherment=False,
        data_encipherment=False,
        key_agreement=False,
        key_cert_sign=is_authority,
        crl_sign=is_authority,
        encipher_only=False,
        decipher_only=False,
    )


def _create_authority(
    names: Sequence[str], now: datetime
) -> tuple[EllipticCurvePrivateKey, x509.Certificate]:
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes
    from cryptography.hazmat.primitives.asymmetric import ec

    key = ec.generate_private_key(ec.SECP256R1())
    limits = x509.NameConstraints(permitted_subtrees=_list_permitted(names), excluded_subtrees=None)
    builder = (
        _build(AUTHORITY_NAME, AUTHORITY_NAME, key, AUTHORITY_DAYS, now)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_limit_use(True), critical=True)
        .add_extension(limits, critical=True)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
    )
    return key, builder.sign(key, hashes.SHA256())


def _create_server(
    authority: tuple[EllipticCurvePrivateKey, x509.Certificate],
    names: Sequence[str],
    now: datetime,
) -> tuple[EllipticCurvePrivateKey, x509.Certificate]:
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes
    from cryptography.hazmat.primitives.asymmetric import ec
    from cryptography.x509.oid import ExtendedKeyUsageOID

    authority_key = authority[0]
    key = ec.generate_private_key(ec.SECP256R1())
    builder = (
        _build("Wise Arc", AUTHORITY_NAME, key, SERVER_DAYS, now)
        .add_extension(x509.SubjectAlternativeName(_list_names(names)), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_limit_use(False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .add_extension(
            x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key()),
            critical=False,
        )
    )
    return key, builder.sign(authority_key, hashes.SHA256())
