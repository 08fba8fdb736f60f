"""Forms: their fields made from the declarations, and what was typed read back into core types."""
