"""Preparation of the weld: fit-up, tacks, bars, technique, safety."""
