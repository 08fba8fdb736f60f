"""Core types to and from open formats, with the schemas for the parsers."""
