"""Choices about argon and the root: flow, purge, bars."""
