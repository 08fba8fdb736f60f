"""Use cases of diagnosis and shop history."""
