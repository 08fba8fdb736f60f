"""Templates of tube ends, mitres and frames: geometry only.

The files are written by `formats`.
"""
