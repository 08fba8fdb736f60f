"""Purges asked for and under way."""
