"""Approved results: the numbers and names that the product calculated for many cases.

These tests fail where a change alters a number. They ignore the wording of sentences, and they do
not show that a number is right. `python -m tests.approved` prints the changes and approves them.
"""
