"""The arc as it was logged: readings, stretches, pulses, energy, and where it left what was planned."""
