"""Devices, people and the PIN."""
