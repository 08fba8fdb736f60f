"""Jobs: many joints welded in one order."""
