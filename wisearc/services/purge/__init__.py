"""Use cases of purging: forecast, clock, oxygen meter."""
