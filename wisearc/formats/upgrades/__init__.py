"""Upgrades of documents of older versions, one step for each version.

The present shape is next to this folder.
"""
