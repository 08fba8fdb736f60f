"""A plan as version 1.2 wrote it, with the place of what 1.3 keeps beside: the shop it was made in,
which is not known of it.

This file does not change again.
"""

from __future__ import annotations

from ...core.schema.json_types import Data


def plan_from_1_2(data: Data) -> Data:
    """A plan of version 1.3 from one of 1.2. Parameters and returns: data of a plan file; the one
    given is left as it is.
    """
    shop = {
        "entered": False,
        "machine": "",
        "torch": "",
        "least_a": 0.0,
        "most_a": 0.0,
        "build": [],
        "instead": [],
        "short": [],
        "cylinder_l": None,
        "ends_at_mm": None,
        "why": [],
        "others": [],
    }
    return {**data, "minor": 3, "shop": shop}
