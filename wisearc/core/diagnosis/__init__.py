"""From what is seen on a run to its causes and the one change; whether a run is good stands in
`run`.
"""
