"""Core types to and from open formats, with the schemas that the readers check against."""
