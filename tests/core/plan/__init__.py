"""What a plan decides: choices, cautions, limits, pins, schools."""
