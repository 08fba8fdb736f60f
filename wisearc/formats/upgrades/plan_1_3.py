"""A plan as version 1.3 wrote it, with the place of what 1.4 keeps beside: how long a neighbour
waits, which was not told then.

This file does not change again.
"""

from __future__ import annotations

from ...core.schema.json_types import Data


def plan_from_1_3(data: Data) -> Data:
    """A plan of version 1.4 from one of 1.3. Parameters and returns: data of a plan file; the one
    given is left as it is.
    """
    return {**data, "minor": 4, "heat": {**data["heat"], "interpass_wait_s": None}}
