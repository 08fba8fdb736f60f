"""The Reference section."""

from ..navigation import Place
from . import chart
from .views import blueprint

__all__ = ["PLACE", "chart"]
PLACE = Place(blueprint, "reference.index", "Reference", "f", 70)
