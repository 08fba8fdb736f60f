"""The Learn section: the course, virtual seams, exercises, drills, and a beat."""

from ..navigation import Place
from . import beat, drills, exercises, own, seams
from .views import blueprint

__all__ = ["PLACE", "beat", "drills", "exercises", "own", "seams"]

PLACE = Place(
    blueprint,
    "learn.index",
    "Learn",
    "l",
    57,
    larger={"/learn/seam/judge": seams.MAX_TRACK_BYTES},
)
