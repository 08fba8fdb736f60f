"""Use cases of devices: paired devices of the network, and devices on a port."""
