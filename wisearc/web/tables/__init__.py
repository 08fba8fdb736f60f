"""The reference tables."""

from ..places import Place
from .views import blueprint

PLACE = Place(blueprint, "tables.index", "Tables", "t", 70)
