"""Choices about the torch: tungsten, tip, front end and cup, within the stock."""
