"""Forms: fields from the declarations, and typed text parsed into core types."""
