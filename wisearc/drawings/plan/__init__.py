"""Drawings of a plan: section, seam, heat, tacks, torch."""
