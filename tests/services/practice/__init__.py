"""Practice: the process of the seams, saved tries, owners, the course and drills."""
