"""Files of an arc log: CSV in, JSON out."""
