"""Files of an arc log: CSV import, JSON export."""
