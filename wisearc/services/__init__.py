"""Use cases, called by pages, commands and tests."""
