"""Heat, gas flow, purge and weld-metal chemistry as published formulas, without joints or plans."""
