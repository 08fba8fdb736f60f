"""Runs at the arc, and older records there."""
