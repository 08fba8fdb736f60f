"""Repairs of flaws on the real part."""
