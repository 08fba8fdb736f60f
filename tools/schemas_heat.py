"""The JSON Schema of a field of heat."""

from __future__ import annotations

from typing import Any

from wisearc.core import catalogue

_MAX = 1e7


def _number(description: str, nullable: bool = False, low: float | None = 0.0) -> dict[str, Any]:
    schema: dict[str, Any] = {
        "description": description,
        "type": ["number", "null"] if nullable else "number",
        "maximum": _MAX,
    }
    return schema if low is None else {**schema, "minimum": low}


def _object(properties: dict[str, Any]) -> dict[str, Any]:
    return {
        "type": "object",
        "required": list(properties),
        "additionalProperties": False,
        "properties": properties,
    }


def _rows(item: dict[str, Any]) -> dict[str, Any]:
    return {"type": "array", "items": item}


def _pair(description: str) -> dict[str, Any]:
    return {
        "description": description,
        "type": "array",
        "minItems": 2,
        "maxItems": 2,
        "items": _number("Millimetres"),
    }


def heat_schema() -> dict[str, Any]:
    """Return the schema of a field of heat."""
    tint = {"enum": list(catalogue.load_tints())}
    flag, text = {"type": "boolean"}, {"type": "string", "maxLength": 600}
    pool = _object(
        {
            "width_peak_mm": _number("Pool width at the end of the peak"),
            "length_peak_mm": _number("Pool length at the end of the peak"),
            "width_between_mm": _number("Pool width before the next peak"),
            "freezes_between": flag,
            "width_on_tack_mm": _number("Melted width over a tack with rod", nullable=True),
            "width_along_mm": _rows(_pair("Place along the seam, and melted width there")),
        }
    )
    arc = _object(
        {
            "peak_a": _number("Peak, or the current without pulse"),
            "mean_a": _number("Mean current"),
            "travel_mm_s": _number("Travel speed"),
            "length_mm": _number("Calculated length of the seam"),
            "width_mm": _number("Sheet on each side of the seam"),
            "bar_from_mm": _number("Bars from the seam", nullable=True),
        }
    )
    probe = _object(
        {
            "x_mm": _number("Along the seam from its start", low=None),
            "y_mm": _number("Across the seam, positive on the first member", low=None),
            "max_c": _number("Highest temperature"),
            "over_600_s": _number("Time above 600 °C"),
        }
    )
    difference = _object({"figure": text, "planned": text, "field": text, "why": text})
    return {
        "title": "The field of heat of a joint in time",
        **_object(
            {
                "format": {"const": "wisearc/heat"},
                "version": {"const": 1},
                "model": {"const": "field"},
                "grid_mm": _number("Finest grid"),
                "step_s": _number("Step"),
                "cells": {"type": "integer", "minimum": 1},
                "run_s": _number("Time of the calculation"),
                "energy_balance_pct": _number("Missing energy", low=None),
                "arc": arc,
                "pool": pool,
                "hot_band_mm": _number("Width of sheet above 450 °C"),
                "glow_after_stop_s": _number("Red heat after the arc"),
                "over_600_s": _number("Time of the seam above 600 °C"),
                "tint_front": tint,
                "tint_back": tint,
                "tint_front_worst": tint,
                "burns_through": flag,
                "burnt_mm": _rows(_pair("From and to along the seam")),
                "fuses": flag,
                "unfused_mm": _rows(_pair("From and to along the seam")),
                "mean_end_c": _number("Mean temperature when the arc goes out"),
                "wait_s": _number("Wait to the interpass limit", nullable=True),
                "restart_s": _number("Wait for the pool at a restart", nullable=True),
                "tendon_kn": _number("Shrinkage force"),
                "bar_share_pct": _number("Share of the heat into the bars"),
                "probes": _rows(probe),
                "differs": _rows(difference),
            }
        ),
    }
