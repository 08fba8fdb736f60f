"""Tests of the product.

They do not wait for the disk; `ON_DISK` has the settings of the product.
"""

from wisearc.store import database

ON_DISK = database.PRAGMAS["synchronous"]
database.PRAGMAS["synchronous"] = "off"
