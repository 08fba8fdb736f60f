"""The Shop place: for now, the schools a shop goes by, and the care of its book."""

from ..places import Place
from . import care
from .views import blueprint

_LARGER = {"/shop/import": care.LARGEST_COPY, "/shop/restore": care.LARGEST_COPY}
PLACE = Place(blueprint, "shop.index", "Shop", "s", 60, larger=_LARGER)
