"""Upgrade a plan of version 1.5: figures that it did not calculate.

The meaning of this module does not change again.
"""

from __future__ import annotations

from ...core.schema.json_types import Data


def plan_from_1_5(data: Data) -> Data:
    """Return a plan of version 1.6 from one of 1.5.

    Feed and spacing of the dabs, sectors, and the hose of the purge are not known. Tacks were held,
    and bars had argon in their groove where the plan has a flow for it.

    Args:
        data: Data of a plan file. It does not change.

    Returns:
        Data of a plan file.
    """
    back, tacks = data["back"], data["tacks"]
    purge = back["purge"]
    if purge is not None:
        purge = {**purge, "hose_l": None, "minutes": purge["minutes_volumes"]}
    return {
        **data,
        "minor": 6,
        "filler": {**data["filler"], "feed_mm_min": None},
        "travel": {**data["travel"], "dab_pitch_mm": None},
        "torch": {**data["torch"], "sectors": []},
        "technique": {**data["technique"], "stops": []},
        "tacks": {**tacks, "school": "held"},
        "back": {
            **back,
            "purge": purge,
            "bar_gas": purge is not None and back["contact_w_mm2k"] > 0,
        },
    }
