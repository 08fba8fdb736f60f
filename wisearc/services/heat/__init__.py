"""The field of heat of a plan: calculation, comparison with the closed form, and proposals."""
