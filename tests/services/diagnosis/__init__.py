"""Diagnosis saved with its run."""
