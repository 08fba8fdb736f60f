"""The Shop place: for now, the schools a shop goes by."""

from ..places import Place
from .views import blueprint

PLACE = Place(blueprint, "shop.index", "Schools", "s", 60)
