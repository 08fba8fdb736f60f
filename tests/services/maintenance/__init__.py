"""Backups, archives, files."""
