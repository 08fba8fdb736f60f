"""Upgrade a plan of version 1.1.

A value that 1.1 does not have is null, or empty if it is a text. Nothing is calculated for it. The
meaning of this module does not change again.
"""

from __future__ import annotations

from ...core.schema.json_types import Data


def plan_from_1_1(data: Data) -> Data:
    """Return a plan of version 1.2 from one of 1.1.

    Args:
        data: Data of a plan file. It does not change.

    Returns:
        Data of a plan file.
    """
    current, back, mean = data["current"], dict(data["back"]), data["pulse"]["average_a"]
    setback = back.pop("bar_setback_mm")
    from_seam = setback + data["travel"]["pool_width_mm"] / 2 if back["bar_lengths"] else 0.0
    return {
        **data,
        "minor": 2,
        "polarity": "",
        "start": "",
        "section": {**data["section"], "third_arm": 1.0},
        "filler": {**data["filler"], "leg_mm": None},
        "weld_metal": {
            **data["weld_metal"],
            "greatest_dilution": None,
            "leaning_dilution": None,
            "region": "",
            "state": "",
        },
        "current": {**current, "dial_a": current["machine_a"], "mean_a": mean},
        "torch": {**data["torch"], "toe_stickout_mm": None},
        "back": {
            **back,
            "purge": _rename_purge(back["purge"]),
            "bar_from_seam_mm": from_seam,
            "bar_most_mm": None,
            "back_c": None,
        },
        "tacks": {**data["tacks"], "dial_a": data["tacks"]["current_a"]},
        "heat": {**data["heat"], "cooling_s": None},
        "technique": {
            "return_clamp": "",
            "torch_angle_deg": None,
            "torch_to": "",
            "lead_angle_deg": None,
            "aim": "",
            "rod_side": "",
            "leg_mm": None,
            "throat_mm": None,
            "start_at": "",
            "stop_at": "",
            "why": [],
            "others": [],
        },
        "after": [],
    }


def _rename_purge(purge: Data | None) -> Data | None:
    if purge is None:
        return None
    return {
        "volume_l": None,
        "preflow_l_min": purge["before_l_min"],
        "weld_flow_l_min": purge["weld_l_min"],
        "minutes_volumes": None,
        "minutes_mixed": None,
        "before_s": purge["before_s"],
        "target_ppm": purge["oxygen_ppm"],
        "vent_mm": purge["vent_mm"],
        "leak_flow_l_min": None,
        "closing_flow_l_min": None,
    }
