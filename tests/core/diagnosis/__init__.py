"""From the observations to the one change."""
