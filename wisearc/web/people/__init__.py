"""People: the user of this device, and actions with the lead PIN."""

from .views import blueprint

__all__ = ["blueprint"]
