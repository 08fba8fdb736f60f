"""The decisions of a plan: choices, cautions, limits, manual answers, approaches."""
