"""Drawings of plan data as SVG, to scale, in both unit systems, for screen or paper."""
