"""The Weld section: the arc phase by phase, with its guide, its trace and its summary."""

from ..navigation import Place
from . import write
from .views import blueprint

__all__ = ["PLACE"]
_LARGER = {"/weld/write": write.MAX_WRITE_BYTES, "/weld/log": write.MAX_LOG_BYTES}
PLACE = Place(blueprint, "weld.index", "Weld", "w", 30, tint="plum", larger=_LARGER)
