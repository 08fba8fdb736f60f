"""Results that were looked at and approved: the figures and the names that many cases gave.

A change of a rule fails these tests wherever it changes a figure; sentences may change. The tests
are no outside check. When a change is intended, `python -m tests.approved` prints what changed and
approves it.
"""
