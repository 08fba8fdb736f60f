"""Purge requests, and purges in progress."""
