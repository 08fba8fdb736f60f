"""What is owned, and a plan within it."""
