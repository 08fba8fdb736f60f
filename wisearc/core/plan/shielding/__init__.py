"""Choices about argon and the back of the joint: flow, purge, bars."""
