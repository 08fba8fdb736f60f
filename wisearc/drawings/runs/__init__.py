"""Drawings of a run and of what is seen on it."""
