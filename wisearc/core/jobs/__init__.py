"""A job: many joints welded in one order."""
