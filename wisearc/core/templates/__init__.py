"""Templates of tube ends, mitres and frames: geometry only; files are written by `formats`."""
