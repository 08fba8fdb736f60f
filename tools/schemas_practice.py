"""The JSON Schemas of a recorded weld and of how it was judged."""

from __future__ import annotations

from typing import Any

from wisearc.core import catalogue
from wisearc.core.practice.slips import KINDS
from wisearc.core.practice.track import MAX_A, MAX_DABS, MAX_MM, MAX_S, MAX_SAMPLES, MIN_SAMPLES
from wisearc.core.run.quality import ACCEPTABLE, GOOD, NOT_GOOD
from wisearc.core.run.saved_reading import SavedCause, SavedChange
from wisearc.core.schema.documents import build_json_schema

SCORES = ("travel", "current", "line", "dabs", "width", "overlap", "restarts", "end")


def _number(low: float, high: float, nullable: bool = False) -> dict[str, Any]:
    kind: Any = ["number", "null"] if nullable else "number"
    return {"type": kind, "minimum": low, "maximum": high}


def _object(properties: dict[str, Any], required: list[str] | None = None) -> dict[str, Any]:
    return {
        "type": "object",
        "required": list(properties) if required is None else required,
        "additionalProperties": False,
        "properties": properties,
    }


def _rows(*columns: dict[str, Any]) -> dict[str, Any]:
    return {
        "type": "array",
        "items": {
            "type": "array",
            "prefixItems": list(columns),
            "minItems": len(columns),
            "maxItems": len(columns),
            "items": False,
        },
    }


def track_schema() -> dict[str, Any]:
    """Return the schema of a recorded weld."""
    place = _number(-MAX_MM, MAX_MM)
    time = _number(0, MAX_S)
    samples = _rows(time, place, place, _number(0, MAX_A))
    samples |= {
        "description": "Time s, along the seam mm, across it mm, current that the pedal asks for A",
        "minItems": MIN_SAMPLES,
        "maxItems": MAX_SAMPLES,
    }
    properties = {
        "format": {"const": "wisearc/track"},
        "version": {"const": 1},
        "joint": {"type": ["object", "null"], "description": "The joint, as in a joint file"},
        "lesson": {"type": ["string", "null"], "enum": [*catalogue.load_lessons(), None]},
        "samples": samples,
        "dabs": {"type": "array", "maxItems": MAX_DABS, "items": time},
        "gas_off_s": _number(0, MAX_S, nullable=True),
    }
    return {
        "title": "A recorded weld",
        **_object(properties, ["format", "version", "samples"]),
        "anyOf": [
            {"required": ["joint"], "properties": {"joint": {"type": "object"}}},
            {"required": ["lesson"], "properties": {"lesson": {"type": "string"}}},
        ],
    }


def practice_schema() -> dict[str, Any]:
    """Return the schema of a judged weld."""
    score, text = _number(0, 100), {"type": "string", "maxLength": 600}
    place, tint = _number(-MAX_MM, MAX_MM), {"enum": list(catalogue.load_tints())}
    change: dict[str, Any] = dict(build_json_schema(SavedChange))
    causes: dict[str, Any] = dict(build_json_schema(SavedCause))
    return {
        "title": "A judged weld",
        **_object(
            {
                "format": {"const": "wisearc/practice"},
                "version": {"const": 1},
                "score": score,
                "scores": _object({key: _number(0, 100, nullable=True) for key in SCORES}),
                "slips": {
                    "type": "array",
                    "items": _object(
                        {
                            "key": {"enum": list(KINDS)},
                            "text": text,
                            "text_in": text,
                            "at_mm": _number(-MAX_MM, MAX_MM, nullable=True),
                        }
                    ),
                },
                "target": _object(
                    {
                        "width_mm": _number(0, 50),
                        "travel_mm_s": _number(0, 100),
                        "current_a": _number(0, MAX_A),
                        "length_mm": _number(0, MAX_MM),
                    }
                ),
                "pool_mm": _rows(place, _number(0, 200)),
                "travel_mm_s": _rows(place, _number(0, 10_000)),
                "current_a": _rows(place, _number(0, MAX_A)),
                "tint_front": _rows(place, tint),
                "tint_back": _rows(place, tint),
                "faults": {"type": "array", "items": {"enum": list(catalogue.load_flaws())}},
                "verdict": {"enum": [GOOD, ACCEPTABLE, NOT_GOOD]},
                "why": text,
                "causes": {"type": "array", "items": causes},
                "change": {"anyOf": [{"type": "null"}, change]},
            }
        ),
    }
