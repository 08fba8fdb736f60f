"""The Plan section: the joint as a sentence, with the answers."""

from ..navigation import Place
from .views import blueprint

PLACE = Place(blueprint, "plan.page", "Plan", "p", 10, tint="straw")
