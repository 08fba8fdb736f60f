"""Arc logs, whole and live."""
