"""Use cases of jobs: entered, changed, planned, searched for an order."""
