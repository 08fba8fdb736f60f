"""Drawings of a run and of its observations."""
