"""Use cases of setting up: lists that are ticked."""
