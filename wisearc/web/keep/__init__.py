"""The Keep place: procedures, their revisions and runs."""

from .views import blueprint

__all__ = ["blueprint"]
