"""Arc logs: readings, stretches, pulses and limits; reading the file stands in `formats`."""
