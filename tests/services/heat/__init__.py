"""Fields for pages: the worker, its requests, goals."""
