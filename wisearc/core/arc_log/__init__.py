"""Arc logs: readings, arc intervals, pulses and limits.

The parsers of log files are in `formats`.
"""
