"""The equipment of a shop, and a plan within it."""
