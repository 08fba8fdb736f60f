"""Tests of the product. They do not wait for the disk; what the product sets stands in
`ON_DISK`.
"""

from wisearc.store import database

ON_DISK = database.PRAGMAS["synchronous"]
database.PRAGMAS["synchronous"] = "off"
