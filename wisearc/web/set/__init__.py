"""The Set place: the torch built, the machine set, gas, back and tacks, as a list to tick."""

from ..places import Place
from .views import blueprint

PLACE = Place(blueprint, "set.index", "Set", "e", 20, tint="bronze")
