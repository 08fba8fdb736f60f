"""The Shop place: what the shop owns, the schools it goes by, and the care of its book."""

from ...services.inventory.shop_files import LARGEST_FILE
from ..navigation import Place
from . import care, stock
from .views import blueprint

_LARGER = {
    "/shop/import": care.LARGEST_COPY,
    "/shop/restore": care.LARGEST_COPY,
    "/shop/take": LARGEST_FILE + 65536,
    "/shop/taken": 3 * LARGEST_FILE,
}
PLACE = Place(blueprint, "shop.index", "Shop", "s", 60, larger=_LARGER)

__all__ = ["PLACE", "stock"]
