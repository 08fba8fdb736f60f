"""The steps at the arc, the events that move them, travel and beat; what is recorded afterwards
stands in `run`.
"""
