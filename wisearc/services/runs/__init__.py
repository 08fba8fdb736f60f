"""Use cases of recorded runs: record, correction, files."""
