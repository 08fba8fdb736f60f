"""Use cases of templates and frames."""
