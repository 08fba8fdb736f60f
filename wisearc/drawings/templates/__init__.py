"""Drawings of a template, flat and in space."""
