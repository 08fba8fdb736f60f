"""The Cut place: templates of tubes' ends, cut lengths of a frame, shims."""

from ..navigation import Place
from .views import LARGEST_LIST, blueprint

PLACE = Place(blueprint, "cut.page", "Templates", "t", 55, larger={"/cut/frame": LARGEST_LIST})
