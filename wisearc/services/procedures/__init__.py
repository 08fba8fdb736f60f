"""Use cases of procedures: drafts, revisions, the list and its search."""
