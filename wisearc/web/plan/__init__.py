"""The Plan place: the joint as a sentence, the answers beside it."""

from ..navigation import Place
from .views import blueprint

PLACE = Place(blueprint, "plan.page", "Plan", "p", 10, tint="straw")
