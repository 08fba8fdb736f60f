"""Use cases of diagnosis and of what the runs teach."""
