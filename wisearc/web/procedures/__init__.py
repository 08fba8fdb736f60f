"""The Keep place: procedures, their revisions and runs."""

from ...services.procedures.procedures import LARGEST_FILE
from ..navigation import Place
from .views import blueprint

PLACE = Place(
    blueprint,
    "procedures.index",
    "Procedures",
    "r",
    50,
    tint="blue",
    larger={"/procedures/read": LARGEST_FILE},
)
