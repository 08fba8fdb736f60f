"""Results of the services as page contents, in words and units, without decisions or storage."""
