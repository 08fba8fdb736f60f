"""Use cases of people and PINs."""
