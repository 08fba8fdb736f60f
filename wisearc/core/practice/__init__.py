"""Practice: a hand welds a virtual seam in the field of heat, and is judged like a real bead."""
