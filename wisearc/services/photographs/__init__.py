"""Photographs of beads: measured from a file, and for pages in a separate process."""
