"""The Shop place: for now, the schools a shop goes by."""

from .views import blueprint

__all__ = ["blueprint"]
