"""The first page: search and last work."""
