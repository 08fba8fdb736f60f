"""Tests of the product.

They do not wait for the disk; `ON_DISK` has the settings of the product. Garbage is collected less
often, because thousands of plans that a test keeps would be searched again and again.
"""

import gc

from wisearc.store import database

ON_DISK = database.PRAGMAS["synchronous"]
database.PRAGMAS["synchronous"] = "off"
gc.set_threshold(50_000, 20, 20)
