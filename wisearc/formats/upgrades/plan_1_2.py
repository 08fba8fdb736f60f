"""Upgrade a plan of version 1.2: its shop, which is not known.

The meaning of this module does not change again.
"""

from __future__ import annotations

from ...core.schema.json_types import Data


def plan_from_1_2(data: Data) -> Data:
    """Return a plan of version 1.3 from one of 1.2.

    Args:
        data: Data of a plan file. It does not change.

    Returns:
        Data of a plan file.
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
