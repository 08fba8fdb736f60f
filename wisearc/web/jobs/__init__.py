"""The Jobs section: many joints in one order."""

from ..navigation import Place
from . import bench, entry, heat, options
from .views import blueprint

PLACE = Place(blueprint, "jobs.index", "Jobs", "j", 52, larger={"/jobs/take": 4 * 1024 * 1024})
__all__ = ["PLACE", "bench", "entry", "heat", "options"]
