"""Signed content of a revision: canonical JSON (RFC 8785), its SHA-256, and Ed25519 signatures.

Numbers of procedures, later runs and states are not part of the content, so that they can change.
"""

from __future__ import annotations

import base64
import binascii
import hashlib
from collections.abc import Mapping
from typing import TYPE_CHECKING

from ..core.errors import InputError
from ..core.run.signature import KEY_ID_LENGTH, ShopKey, Signature
from ..core.schema.documents import write_document
from ..core.schema.json_types import Json, JsonObject
from .run_json import MORE as LIBRARY_KEYS

if TYPE_CHECKING:
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

# The keys of a run that are not part of the signed content.
UNSIGNED_RUN_KEYS = frozenset({"procedure", "revision", *LIBRARY_KEYS})


def build_signed_content(
    letter: str,
    title: str,
    joint: JsonObject,
    plan: JsonObject,
    bands: Mapping[str, Json],
    verified_by: JsonObject | None,
) -> dict[str, Json]:
    """Return the content that a signature covers, as stored.

    Args:
        letter: Revision letter.
        title: Title of the revision.
        joint: The joint.
        plan: The plan.
        bands: Allowed ranges.
        verified_by: The record of the verifying run, or None.
    """
    run: Json = None
    if verified_by is not None:
        run = {key: value for key, value in verified_by.items() if key not in UNSIGNED_RUN_KEYS}
    return {
        "revision": letter,
        "title": title,
        "joint": joint,
        "plan": plan,
        "bands": bands,
        "verified_by": run,
    }


def write_canonical(data: JsonObject) -> bytes:
    r"""Return JSON in its canonical form.

    Args:
        data: The data.

    Raises:
        InputError: A number has no canonical form.

    References:
        RFC 8785, JSON Canonicalization Scheme (published).

    >>> write_canonical({"b": 1.0, "a": "é"})
    b'{"a":"\xc3\xa9","b":1}'
    """
    import rfc8785

    try:
        return rfc8785.dumps(data)
    except rfc8785.CanonicalizationError as error:
        raise InputError("content", None, f"cannot be signed: {error}") from error


def calculate_digests(content: JsonObject, run: JsonObject | None) -> tuple[str, str]:
    """Return the SHA-256 of the canonical JSON of signed content, without and with its run.

    The key of the run is the last one in the canonical order, so that the large rest is written
    once.

    Args:
        content: The content without a run.
        run: The record of the verifying run, or None.

    Returns:
        Each 64 hexadecimal digits.
    """
    text = write_canonical(content)
    before = hashlib.sha256(text).hexdigest()
    if run is None:
        return before, before
    signed = {key: value for key, value in run.items() if key not in UNSIGNED_RUN_KEYS}
    with_run = text.removesuffix(b"null}") + write_canonical(signed) + b"}"
    return before, hashlib.sha256(with_run).hexdigest()


def build_key_id(public: bytes) -> str:
    """Return the identifier of a public key.

    Args:
        public: Public key, 32 bytes.
    """
    return hashlib.sha256(public).hexdigest()[:KEY_ID_LENGTH]


def write_public_key(key: Ed25519PrivateKey, shop: str) -> ShopKey:
    """Return the public part of a key.

    Args:
        key: The private key.
        shop: Name of the shop.
    """
    raw = key.public_key().public_bytes_raw()
    return ShopKey(build_key_id(raw), base64.b64encode(raw).decode(), shop)


def check_key(key: ShopKey, where: str = "keys") -> None:
    """Check that a public key has the right length and identifier.

    Args:
        key: The key.
        where: Key of the list, for the error.

    Raises:
        InputError: It has not.
    """
    raw = _decode(key.public)
    if raw is None or len(raw) != 32:
        raise InputError(f"{where}.public", key.public, "must be 32 bytes as base64")
    if build_key_id(raw) != key.key_id:
        raise InputError(f"{where}.key_id", key.key_id, "does not match its public key")


def sign(signature: Signature, key: Ed25519PrivateKey) -> Signature:
    """Return a signature with the signature of the key.

    Args:
        signature: The signature. Its `signature` and `key_id` are replaced.
        key: The key of the shop.
    """
    from msgspec.structs import replace

    key_id = build_key_id(key.public_key().public_bytes_raw())
    named = replace(signature, key_id=key_id)
    signed = key.sign(_write_signed_fields(named))
    return replace(named, signature=base64.b64encode(signed).decode())


def _write_signed_fields(signature: Signature) -> bytes:
    fields = write_document(signature)
    return write_canonical({key: v for key, v in fields.items() if key != "signature"})


def is_signed_by(signature: Signature, key: ShopKey) -> bool:
    """Return whether a key made a signature.

    Args:
        signature: The signature.
        key: The public key.
    """
    from cryptography.exceptions import InvalidSignature
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

    public, signed = _decode(key.public), _decode(signature.signature)
    if public is None or signed is None or signature.key_id != key.key_id:
        return False
    try:
        Ed25519PublicKey.from_public_bytes(public).verify(signed, _write_signed_fields(signature))
    except (InvalidSignature, ValueError):
        return False
    return True


def _decode(text: str) -> bytes | None:
    try:
        return base64.b64decode(text, validate=True)
    except (binascii.Error, ValueError):
        return None
