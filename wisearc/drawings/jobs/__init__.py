"""Drawings of a job: layout and order."""
