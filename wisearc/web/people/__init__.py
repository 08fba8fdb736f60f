"""People: who works at this device, and acts that ask for the lead's PIN."""

from .views import blueprint

__all__ = ["blueprint"]
