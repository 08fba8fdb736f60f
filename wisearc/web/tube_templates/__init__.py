"""The Templates section: templates of tube ends, cut lists, shims."""

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
