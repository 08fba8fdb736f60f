"""Practice: a virtual seam is welded in the field of heat, and judged like a real bead."""
