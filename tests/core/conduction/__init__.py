"""The field of heat: seams, bad input, findings."""
