"""Simulated devices: small stand-ins for what a bench has beside it."""
