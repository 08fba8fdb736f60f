"""Upgrade a plan of version 1.4: a shop history without runs, and the current by the rule of thumb.

The meaning of this module does not change again.
"""

from __future__ import annotations

from ...core.schema.json_types import Data


def plan_from_1_4(data: Data) -> Data:
    """Return a plan of version 1.5 from one of 1.4.

    Without a manual current, the current of the plan was that of the rule of thumb at its travel
    speed. With one, the travel speed of that current is the one of the plan.

    Args:
        data: Data of a plan file. It does not change.

    Returns:
        Data of a plan file.
    """
    current, pins = data["current"], data["joint"].get("pins") or {}
    rule_of_thumb_a = current["bench_rule_a"] if "current_a" in pins else current["steady_a"]
    history = {
        "own_runs": None,
        "own_ratio": None,
        "own_spread_pct": None,
        "by_record": False,
        "bench_at_pace_a": rule_of_thumb_a,
    }
    return {**data, "minor": 5, "current": {**current, **history}}
