"""The reference tables."""

from ..navigation import Place
from .views import blueprint

PLACE = Place(blueprint, "tables.index", "Reference", "f", 70)
