"""Named views of the library."""

from __future__ import annotations

from .database import wrap_errors
from .models import SavedView


def list_views() -> list[SavedView]:
    """Return the saved views by name."""
    with wrap_errors():
        return list(SavedView.select().order_by(SavedView.name))


def find_view(name: str) -> SavedView | None:
    """Return a saved view by name, or None."""
    with wrap_errors():
        return SavedView.get_or_none(SavedView.name == name)


def put_view(name: str, query: str, at: str) -> None:
    """Save a view. One with the same name is replaced.

    Args:
        name: Its name.
        query: Its filters, as the query of an address.
        at: Current time, UTC.
    """
    SavedView.insert(name=name, query=query, saved_at=at).on_conflict(
        conflict_target=[SavedView.name],
        update={SavedView.query: query, SavedView.saved_at: at},
    ).execute()


def remove_view(name: str) -> bool:
    """Delete a saved view, and return whether it existed.

    Args:
        name: Its name.
    """
    return bool(SavedView.delete().where(SavedView.name == name).execute())
