"""The door: where a device from beyond this machine is let in, and those that were are looked
after.
"""

from .views import blueprint

__all__ = ["blueprint"]
