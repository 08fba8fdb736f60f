"""A plan as version 1.4 wrote it, with the places of what 1.5 keeps beside: what the shop's own
record said, which was none, and the bench rule at the plan's pace.

This file does not change again.
"""

from __future__ import annotations

from ...core.schema.json_types import Data


def plan_from_1_4(data: Data) -> Data:
    """A plan of version 1.5 from one of 1.4. Parameters and returns: data of a plan file; the one
    given is left as it is.

    Where nothing was set by hand the plan's current was the bench rule's at its pace; where the
    current was, its own pace is taken for the plan's.
    """
    current, pins = data["current"], data["joint"].get("pins") or {}
    at_pace = current["bench_rule_a"] if "current_a" in pins else current["steady_a"]
    told = {
        "own_runs": None,
        "own_ratio": None,
        "own_spread_pct": None,
        "by_record": False,
        "bench_at_pace_a": at_pace,
    }
    return {**data, "minor": 5, "current": {**current, **told}}
