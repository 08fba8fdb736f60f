"""The Plan place: the joint as a sentence, the answers beside it."""

from .views import blueprint

__all__ = ["blueprint"]
