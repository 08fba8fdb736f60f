"""The field of heat in the thin members of a joint, in time, on a grid."""
