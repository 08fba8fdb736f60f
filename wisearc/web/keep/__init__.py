"""The Keep place: procedures, their revisions and runs."""

from ..places import Place
from .views import blueprint

PLACE = Place(blueprint, "keep.index", "Keep", "k", 50, tint="blue")
