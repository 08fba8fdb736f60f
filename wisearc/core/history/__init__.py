"""What the runs of a shop teach: ratios to the rule of thumb, statistics, families of like
joints.
"""
