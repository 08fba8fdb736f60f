"""The first page: ways to start, the last work, and one search."""

from ..navigation import Place
from .views import blueprint

PLACE = Place(blueprint, "front.index", "First page", "h", 5, is_listed=False)
