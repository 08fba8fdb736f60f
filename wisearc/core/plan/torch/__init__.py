"""Choices about the torch: tungsten, tip, front end and cup, and how they fit what is owned."""
