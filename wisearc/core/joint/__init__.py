"""The joint: its declared fields, how they are read, what must hold between them, its words and its
section.
"""
