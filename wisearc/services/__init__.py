"""Use cases: what a page, a command and a test all call."""
