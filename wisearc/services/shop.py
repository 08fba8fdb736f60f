"""The shop that plans count on."""

from __future__ import annotations

from ..core.shop import ASSUMED, Shop


def standing_shop() -> Shop:
    """The shop that plans count on: an assumed one, until one can be entered."""
    return ASSUMED
