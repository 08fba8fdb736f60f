"""Tests of the repairs."""
