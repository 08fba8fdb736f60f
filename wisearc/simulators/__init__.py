"""Simulated devices for the bench."""
