"""Orders, costs, cut lists of many joints."""
