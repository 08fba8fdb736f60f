"""The reference tables."""

from .views import blueprint

__all__ = ["blueprint"]
