"""The keys of shops: public parts in the library, the private key of this shop in a separate file.

No copy, backup or archive has the private key.
"""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.run.signature import ShopKey
from .database import db, wrap_errors
from .errors import DataFileReplaced, Unreadable
from .folder import wrap_disk_errors, write_complete
from .models import ShopKeyRow

if TYPE_CHECKING:
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

FILE = "signing-key.pem"


def find_own() -> ShopKey | None:
    """Return the current key of this shop, or None."""
    with wrap_errors():
        row = ShopKeyRow.get_or_none(ShopKeyRow.own & ShopKeyRow.replaced_at.is_null())
    return None if row is None else ShopKey(row.key_id, row.public, row.shop)


def list_own_ids() -> set[str]:
    """Return the identifiers of every key of this shop, also of replaced ones."""
    with wrap_errors():
        return {row.key_id for row in ShopKeyRow.select().where(ShopKeyRow.own)}


def list_keys(ids: Iterable[str]) -> list[ShopKey]:
    """Return known keys by identifier, in order.

    Args:
        ids: The identifiers.
    """
    with wrap_errors():
        rows = ShopKeyRow.select().where(ShopKeyRow.key_id << sorted(set(ids)))
        return [
            ShopKey(row.key_id, row.public, row.shop) for row in rows.order_by(ShopKeyRow.key_id)
        ]


def list_rows() -> list[ShopKeyRow]:
    """Return every known key: own ones first, the newest first."""
    with wrap_errors():
        order = (ShopKeyRow.own.desc(), ShopKeyRow.added_at.desc(), ShopKeyRow.key_id)
        return list(ShopKeyRow.select().order_by(*order))


def add_received(keys: Iterable[ShopKey], at: str) -> None:
    """Add the keys of another shop. A known key does not change.

    Args:
        keys: The keys, checked.
        at: Current time, UTC.
    """
    for key in keys:
        ShopKeyRow.insert(
            key_id=key.key_id, public=key.public, shop=key.shop, own=False, added_at=at
        ).on_conflict_ignore().execute()


def set_own(key: ShopKey, at: str) -> None:
    """Set the key of this shop. The one before it is marked as replaced.

    Args:
        key: The key.
        at: Current time, UTC.
    """
    is_other = ShopKeyRow.own & ShopKeyRow.replaced_at.is_null() & (ShopKeyRow.key_id != key.key_id)
    ShopKeyRow.update(replaced_at=at).where(is_other).execute()
    ShopKeyRow.insert(
        key_id=key.key_id, public=key.public, shop=key.shop, own=True, added_at=at
    ).on_conflict(
        conflict_target=[ShopKeyRow.key_id],
        update={ShopKeyRow.own: True, ShopKeyRow.replaced_at: None, ShopKeyRow.shop: key.shop},
    ).execute()


def get_file() -> Path:
    """Return the path of the private key of the open library.

    Raises:
        DataFileReplaced: No library is open.
    """
    if db.folder is None:
        raise DataFileReplaced("is no longer in the data folder")
    return db.folder / FILE


def read_private() -> Ed25519PrivateKey | None:
    """Return the private key of this shop, or None if there is no file.

    Raises:
        Unreadable: The file is damaged.
    """
    from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
    from cryptography.hazmat.primitives.serialization import load_pem_private_key

    path = get_file()
    try:
        key = load_pem_private_key(path.read_bytes(), password=None)
    except FileNotFoundError:
        return None
    except (OSError, ValueError, TypeError) as error:
        raise Unreadable(
            f"The signing key in {path.name} cannot be read. Import the exported key in Shop,"
            " Signatures, or create a new one."
        ) from error
    if not isinstance(key, Ed25519PrivateKey):
        raise Unreadable(f"The file {path.name} has another kind of key. It needs Ed25519.")
    return key


def write_private(key: Ed25519PrivateKey) -> None:
    """Write the private key for its owner alone. Keep a file with another key under another name.

    Args:
        key: The key.

    Raises:
        StoreError: The file cannot be written.
    """
    from cryptography.hazmat.primitives.serialization import (
        Encoding,
        NoEncryption,
        PrivateFormat,
    )

    path, text = get_file(), key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption())
    with wrap_disk_errors():
        if path.exists() and path.read_bytes() != text:
            number = 1
            while (kept := path.with_name(f"{path.stem}-before-{number}{path.suffix}")).exists():
                number += 1
            os.link(path, kept)
        write_complete(path, text)
