"""Jobs saved and changed."""
