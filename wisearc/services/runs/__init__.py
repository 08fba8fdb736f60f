"""Use cases of recorded runs: writing down, correcting, the files that belong to them."""
