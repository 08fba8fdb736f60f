"""What is done before the first bead: fit-up, tacks, bars, technique, safety."""
