"""The Inspect section: the verdict of a run, likely causes, the one change."""

from ..navigation import Place
from . import bead, photographs, record, repairs
from .views import blueprint

__all__ = ["PLACE", "bead", "photographs", "record", "repairs"]
PLACE = Place(
    blueprint,
    "inspect.index",
    "Inspect",
    "i",
    40,
    tint="violet",
    larger={"/inspect/photograph": photographs.MAX_POST_BYTES},
)
