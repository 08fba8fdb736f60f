"""Typed results of the services as what a page says, in words and units; nothing is decided or
stored here.
"""
