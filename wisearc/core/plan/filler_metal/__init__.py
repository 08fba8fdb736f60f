"""Choices about filler metal: which rod, how thick, how it is fed, and the weld metal that comes of
it.
"""
