"""The equipment of a shop as declared lists, and the bench for a plan."""
