"""Use cases of the set-up: checklists."""
