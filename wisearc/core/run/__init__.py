"""A recorded run: what was set, used, measured and seen, whether it is good, and what it
verifies.
"""
