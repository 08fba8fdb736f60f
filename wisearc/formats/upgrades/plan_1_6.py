"""Upgrade a plan of version 1.6: figures that it did not calculate.

The meaning of this module does not change again.
"""

from __future__ import annotations

from ...core.schema.json_types import Data


def plan_from_1_6(data: Data) -> Data:
    """Return a plan of version 1.7 from one of 1.6.

    The pool of a pulse in time is not known.

    Args:
        data: Data of a plan file. It does not change.

    Returns:
        Data of a plan file.
    """
    pool = dict.fromkeys(("pool_peak_mm", "pool_length_mm", "pool_between_mm", "freezes_between"))
    return {**data, "minor": 7, "heat": {**data["heat"], **pool}}
