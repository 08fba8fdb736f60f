"""A run: its quality, what it verifies, its record."""
