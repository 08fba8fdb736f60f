"""Practice: virtual seams in a separate process, saved tries, and the course."""
