"""The Inspect section: the verdict of a run, likely causes, the one change."""

from ..navigation import Place
from . import record, repairs
from .views import blueprint

__all__ = ["PLACE", "record", "repairs"]
PLACE = Place(blueprint, "inspect.index", "Inspect", "i", 40, tint="violet")
