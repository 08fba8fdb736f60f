"""Statistics of the runs of a shop: ratios to the rule of thumb, and families of similar joints."""
