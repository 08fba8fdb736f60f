"""Upgrade a plan of version 1.3: the wait between neighbouring seams, which is not known.

The meaning of this module does not change again.
"""

from __future__ import annotations

from ...core.schema.json_types import Data


def plan_from_1_3(data: Data) -> Data:
    """Return a plan of version 1.4 from one of 1.3.

    Args:
        data: Data of a plan file. It does not change.

    Returns:
        Data of a plan file.
    """
    return {**data, "minor": 4, "heat": {**data["heat"], "interpass_wait_s": None}}
