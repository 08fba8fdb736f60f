"""The trade: rules and calculation, without interface, disk, clock or random numbers."""
