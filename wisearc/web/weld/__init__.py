"""The Run place: the arc, led phase by phase, with its pace, its trace, and what it came to."""

from ..navigation import Place
from . import write
from .views import blueprint

__all__ = ["PLACE"]
_LARGER = {"/weld/write": write.MAX_WRITE_BYTES, "/weld/log": write.MAX_LOG_BYTES}
PLACE = Place(blueprint, "weld.index", "Weld", "w", 30, tint="plum", larger=_LARGER)
