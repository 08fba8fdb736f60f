"""Declaration, check, parsing and writing of document fields, without rules of the trade."""
