"""A signature checked in a few lines, from the open file alone and without the product."""

from __future__ import annotations

import base64
import hashlib
import json
from decimal import Decimal
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey

_UNSIGNED = {"procedure", "revision", "kept", "voided", "voided_by", "corrections", "left_out"}


def canonical(value: Any) -> str:
    """RFC 8785 for the values of a procedure file (numbers from 1e-6 to 1e21)."""
    if isinstance(value, dict):
        pairs = sorted(value.items(), key=lambda pair: pair[0].encode("utf-16-be"))
        return "{" + ",".join(f"{canonical(k)}:{canonical(v)}" for k, v in pairs) + "}"
    if isinstance(value, list):
        return "[" + ",".join(map(canonical, value)) + "]"
    if isinstance(value, float):
        text = format(Decimal(repr(value)), "f")
        return text.rstrip("0").rstrip(".") if "." in text else text
    return json.dumps(value, ensure_ascii=False)


def check_file(data: dict[str, Any]) -> list[tuple[bool, bool]]:
    """For each signature of a procedure file: whether the content and the key match it."""
    keys = {key["key_id"]: base64.b64decode(key["public"]) for key in data["keys"]}
    contents = {k: data[k] for k in ("revision", "title", "joint", "plan", "bands")}
    at = data["verified_by"]
    run = None if at is None else {k: v for k, v in data["runs"][at].items() if k not in _UNSIGNED}
    digests = {
        hashlib.sha256(canonical({**contents, "verified_by": covered}).encode()).hexdigest()
        for covered in (run, None)
    }
    found = []
    for entry in data["signatures"]:
        rest = {k: v for k, v in entry.items() if k != "signature"}
        try:
            Ed25519PublicKey.from_public_bytes(keys[entry["key_id"]]).verify(
                base64.b64decode(entry["signature"]), canonical(rest).encode()
            )
            is_signed = True
        except (InvalidSignature, KeyError):
            is_signed = False
        found.append((entry["content_sha256"] in digests, is_signed))
    return found
