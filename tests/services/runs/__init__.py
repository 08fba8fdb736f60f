"""Runs recorded and corrected; their photographs and traces."""
