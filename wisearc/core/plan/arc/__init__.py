"""Choices about the arc: current, pulse, travel speed, machine setting, and the resulting heat."""
