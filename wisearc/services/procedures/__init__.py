"""Use cases of procedures: drafts, revisions, list and search."""
