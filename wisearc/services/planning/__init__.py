"""Use cases of planning: a joint in, a plan out, within the shop."""
