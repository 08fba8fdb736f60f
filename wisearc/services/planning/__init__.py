"""Use cases of planning: from a joint to a plan within the shop."""
