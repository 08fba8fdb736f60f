"""Wise Arc: plans, guides and records TIG welds in thin stainless steel."""

__version__ = "0.14.0"
