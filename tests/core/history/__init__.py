"""The shop history and its statistics."""
