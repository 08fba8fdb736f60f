"""The Set place: the torch built, the machine set, gas, back and tacks, as a list to tick."""

from ..navigation import Place
from . import fit_up, purge
from .views import blueprint

__all__ = ["PLACE", "fit_up", "purge"]
PLACE = Place(blueprint, "set_up.index", "Set up", "u", 20, tint="bronze")
