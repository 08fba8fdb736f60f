"""A plan's data → SVG text: to scale, without state, in either unit habit, for screen or paper."""
