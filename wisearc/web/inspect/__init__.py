"""The Read place: what came out of a run, what may be behind it, the one thing to change."""

from ..navigation import Place
from . import record
from .views import blueprint

__all__ = ["PLACE", "record"]
PLACE = Place(blueprint, "inspect.index", "Inspect", "i", 40, tint="violet")
