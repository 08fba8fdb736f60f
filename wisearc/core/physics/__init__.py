"""Heat, gas flow, purge and weld-metal chemistry as published formulas; nothing here knows a joint
or a plan.
"""
