"""From the observations of a run to its causes and the one change.

The verdict is in `run`.
"""
