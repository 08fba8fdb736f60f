"""Choices about the arc: current, pulse, travel, what is set on the machine, and the heat that
follows.
"""
