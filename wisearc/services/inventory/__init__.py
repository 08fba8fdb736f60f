"""Use cases of the stock: entry, counts, import, export."""
