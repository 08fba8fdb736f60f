"""The trade, pure: rules and computation, with no interface, disk, clock or chance."""
