"""Use cases of devices: those let in over the network, and those that are read from a port."""
