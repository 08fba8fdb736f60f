"""Views of the library that people save by name."""

from __future__ import annotations

from collections.abc import Callable

from ...core.errors import InputError
from ...core.schema import checks
from ...store import saved_views
from ...store.database import open_transaction
from ...store.models import SavedView
from ..clock import get_now

MAX_NAME_LENGTH, MAX_QUERY_LENGTH, MAX_VIEWS = 60, 2000, 100


def list_views() -> list[SavedView]:
    """Return the saved views by name."""
    return saved_views.list_views()


def save_view(name: str, query: str, at: Callable[[], str] = get_now) -> None:
    """Save a view of the library under a name. One with the same name is replaced.

    Args:
        name: Its name.
        query: Its filters, as the query of an address.
        at: Current time, UTC.

    Raises:
        InputError: The name is missing or too long, or there are too many views.
    """
    title = checks.check_line("name", name.strip(), MAX_NAME_LENGTH)
    if not title:
        raise InputError("name", None, "is missing. Example: 316L tubes for food")
    if len(query) > MAX_QUERY_LENGTH:
        raise InputError("view", None, "is too long. Remove a filter")
    with open_transaction():
        is_new = saved_views.find_view(title) is None
        if is_new and len(saved_views.list_views()) >= MAX_VIEWS:
            raise InputError("name", title, f"is one too many: at most {MAX_VIEWS} views are saved")
        saved_views.put_view(title, query, at())


def delete_view(name: str) -> str:
    """Delete a saved view, and return its filters for an undo.

    Args:
        name: Its name.
    """
    with open_transaction():
        view = saved_views.find_view(name)
        if view is None:
            return ""
        saved_views.remove_view(name)
        return view.query
