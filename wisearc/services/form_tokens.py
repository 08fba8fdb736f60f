"""Tokens of forms, which identify a repeated send."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from ..store.models import Revision, RunRow


def build_token(once: str, content: Any) -> str:
    """Return the token of a form with its contents.

    A repeated form has the same token, and other contents another one.

    Args:
        once: Token of the form.
        content: Its contents.
    """
    if not once:
        return ""
    text = json.dumps(content, ensure_ascii=False, sort_keys=True)
    return f"{once[:60]}.{hashlib.sha256(text.encode()).hexdigest()[:24]}"


def find_sent_before(kind: type[Revision] | type[RunRow], once: str) -> Any:
    """Return the record of an earlier form with a token, or None.

    Args:
        kind: Type of the record.
        once: The token.
    """
    return kind.get_or_none(kind.once == once) if once else None
