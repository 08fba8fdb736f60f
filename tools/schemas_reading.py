"""The JSON Schemas of what was seen of a run, and of a reading, by itself and as its run keeps
it.
"""

from __future__ import annotations

from typing import Any

from wisearc.core import catalogue
from wisearc.core.run import inspection, record, saved_reading
from wisearc.core.run.arc_record import LOOKS
from wisearc.core.schema import checks

_LINE = {"type": "string", "maxLength": saved_reading.LONGEST, "pattern": f"^{checks.LINE}$"}
_CODE = {**_LINE, "maxLength": saved_reading.LONGEST_CODE}


def _object(properties: dict[str, Any], required: tuple[str, ...] = ()) -> dict[str, Any]:
    return {
        "type": "object",
        "required": list(required),
        "properties": properties,
        "additionalProperties": False,
    }


def _or_null(one: dict[str, Any]) -> dict[str, Any]:
    return {"anyOf": [one, {"type": "null"}]}


def _by_name(names: list[str], of: dict[str, Any]) -> dict[str, Any]:
    return {"type": "object", "propertyNames": {"enum": names}, "additionalProperties": of}


def _rows(of: dict[str, Any], most: int) -> dict[str, Any]:
    return {"type": "array", "maxItems": most, "items": of}


def seen_schema() -> dict[str, Any]:
    """The schema of what was seen on a closer look."""
    share = {"type": "number", "minimum": 0, "maximum": 1}
    place = {
        "anyOf": [
            {"const": inspection.STOPS},
            {
                "type": "array",
                "prefixItems": [share, share],
                "minItems": 2,
                "maxItems": 2,
                "items": share,
            },
        ]
    }
    asked = [s.key for s in catalogue.signs().values() if s.ask]
    properties = {
        "faults": _or_null(_rows({"enum": list(record.FAULTS)}, len(record.FAULTS))),
        "look": {"enum": [*LOOKS, None]},
        **{f"{face}_tint": {"enum": [*catalogue.tints(), None]} for face in record.FACES},
        "edges": {"enum": [*inspection.EDGES, None]},
        "ripple": {"enum": [*inspection.RIPPLES, None]},
        "band_mm": {
            "type": ["number", "null"],
            "minimum": 0.1,
            "maximum": inspection.MOST_BAND_MM,
            "description": "How wide it is tinted",
        },
        "where": _or_null(_by_name([*inspection.PLACED, *record.FAULTS], place)),
        "told": _or_null(_by_name(asked, {"type": "boolean"})),
    }
    return _object(properties)


def kept_reading_schema() -> dict[str, Any]:
    """The schema of a reading as its run keeps it."""
    return _object({**_properties(), "format": {}, "version": {}}, ("verdict",))


def reading_schema() -> dict[str, Any]:
    """The schema of a reading."""
    head = {"format": {"const": "wisearc/reading"}, "version": {"const": 1}}
    properties = {key: value for key, value in _properties().items() if key != "draft"}
    return {"title": "What a run says", **_object({**head, **properties}, (*head, *properties))}


def _properties() -> dict[str, Any]:
    weight = {"type": "number", "minimum": -20, "maximum": 20}
    evidence = _object(
        {"sign": _LINE, "text": _LINE, "text_in": _LINE, "by": _LINE, "weight": weight}, ("weight",)
    )
    cause = _object(
        {
            "code": _LINE,
            "text": _LINE,
            "weight": {"type": "number", "minimum": 0, "maximum": 1},
            "for": _rows(evidence, 40),
            "against": _rows(evidence, 40),
        },
        ("code", "text", "weight"),
    )
    end = {
        "anyOf": [{"type": "number", "minimum": -1e7, "maximum": 1e7}, _LINE, {"type": "null"}],
        "description": "In the unit beside it",
    }
    words = dict.fromkeys(
        ("code", "key", "cause", "unit", "text", "text_in", "watch", "said"), _LINE
    )
    sets = {"type": "object", "propertyNames": _CODE, "additionalProperties": end}
    words |= {key: {**_LINE, "allOf": [{"pattern": r"\S"}]} for key in saved_reading.NEEDED}
    change = _object({**words, "from": end, "to": end, "sets": sets}, saved_reading.NEEDED)
    return {
        "verdict": {"enum": list(saved_reading.VERDICTS)},
        "why": _LINE,
        "causes": _rows(cause, saved_reading.MOST_KEPT),
        "change": _or_null(change),
        "also": _rows(change, saved_reading.MOST_KEPT),
        "question": _or_null(_object(dict.fromkeys(("sign", "ask", "yes", "no"), _LINE))),
        "cautions": _rows(
            _object(dict.fromkeys(("level", "code", "text", "text_in"), _LINE)),
            saved_reading.MOST_KEPT,
        ),
        "draft": _or_null({"type": "string", "pattern": f"^{saved_reading.LETTER}$"}),
    }
