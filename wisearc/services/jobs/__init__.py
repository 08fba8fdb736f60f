"""Use cases of jobs: entry, changes, plans, order search."""
