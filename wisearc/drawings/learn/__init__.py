"""Drawings of the course: tips of tungstens, beads to be read, and scores by week."""
