"""Documents as PDF."""
