"""The plan and its choices.

Each kind of choice has its folder, in the order of the bench.
"""
