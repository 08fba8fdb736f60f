"""Cautions of a plan: rows by subject, and the tests that use them."""
