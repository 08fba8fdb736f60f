"""The Set up section: torch, machine, gas, root cover and tacks as a checklist."""

from ..navigation import Place
from . import fit_up, purge
from .views import blueprint

__all__ = ["PLACE", "fit_up", "purge"]
PLACE = Place(blueprint, "set_up.index", "Set up", "u", 20, tint="bronze")
