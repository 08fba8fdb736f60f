"""A joint: read, checked, hashed."""
