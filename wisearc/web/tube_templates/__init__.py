"""The Templates section: templates of tube ends, cut lists, shims, holes."""

from ..navigation import Place
from . import marking
from .views import MAX_LIST_BYTES, blueprint

__all__ = ["PLACE", "marking"]

PLACE = Place(
    blueprint,
    "tube_templates.page",
    "Templates",
    "t",
    55,
    larger={"/templates/frame": MAX_LIST_BYTES},
)
