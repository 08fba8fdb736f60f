"""What can go wrong with the data, for those who call the use cases."""

from ..store.errors import Broken, Locked, Missing, Newer, NotAllowed, ReadOnly, Stale, StoreError, Unreadable

__all__ = ["Broken", "Locked", "Missing", "Newer", "NotAllowed", "ReadOnly", "Stale", "StoreError", "Unreadable"]
