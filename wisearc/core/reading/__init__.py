"""Reading a run: what came out, what is behind it, and the one thing to change."""
