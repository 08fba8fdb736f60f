"""Documents of older versions brought to today's shape, one step a version; today's shape stands
beside this folder.
"""
