"""Changed words, pins, comparison."""
