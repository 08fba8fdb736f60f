"""The Reference section."""

from ..navigation import Place
from .views import blueprint

PLACE = Place(blueprint, "reference.index", "Reference", "f", 70)
