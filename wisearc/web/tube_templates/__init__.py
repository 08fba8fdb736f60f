"""The Cut place: templates of tubes' ends, cut lengths of a frame, shims."""

from ..navigation import Place
from .views import MAX_LIST_BYTES, blueprint

PLACE = Place(
    blueprint,
    "tube_templates.page",
    "Templates",
    "t",
    55,
    larger={"/templates/frame": MAX_LIST_BYTES},
)
