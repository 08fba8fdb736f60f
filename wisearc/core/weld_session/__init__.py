"""The steps at the arc, their events, travel and pulse cycle.

The record is in `run`.
"""
