"""Use cases of the shop's stock: entered, counted, imported, exported."""
