"""The shop entered and counted."""
