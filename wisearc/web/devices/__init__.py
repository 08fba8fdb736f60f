"""Device access: pairing of a network device, and management of paired devices."""

from .views import blueprint

__all__ = ["blueprint"]
