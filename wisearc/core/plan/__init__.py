"""The plan and what it is made of; each kind of choice has its folder, in the order of the
bench.
"""
