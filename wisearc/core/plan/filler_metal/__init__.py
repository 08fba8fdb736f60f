"""Choices about filler metal: rod, diameter, feed, and the resulting weld metal."""
