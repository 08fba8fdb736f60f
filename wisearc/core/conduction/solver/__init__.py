"""Steps the field of heat through time on its grid."""
