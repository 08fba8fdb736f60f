"""The Shop section: equipment, approaches, and maintenance of the library."""

from ...services.inventory.shop_files import MAX_FILE_BYTES
from ..navigation import Place
from . import care, signing, stock, stock_list
from .views import blueprint

_LARGER = {
    "/shop/import": care.MAX_ARCHIVE_BYTES,
    "/shop/restore": care.MAX_ARCHIVE_BYTES,
    "/shop/take": MAX_FILE_BYTES + 65536,
    "/shop/taken": 3 * MAX_FILE_BYTES,
}
PLACE = Place(blueprint, "shop.index", "Shop", "s", 60, larger=_LARGER)

__all__ = ["PLACE", "signing", "stock", "stock_list"]
