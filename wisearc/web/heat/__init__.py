"""Heat in time: the field of a plan or a procedure, settings to be tried, and proposals."""
