"""Procedures saved, found, and kept readable for ever."""
