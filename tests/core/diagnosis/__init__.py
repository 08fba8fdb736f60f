"""From what is seen to the one change."""
