"""The JSON Schemas of a job and of its plan."""

from __future__ import annotations

from typing import Any

from wisearc.core.jobs.job import Job
from wisearc.core.jobs.warp import VERDICTS
from wisearc.core.reasons import LEVELS
from wisearc.core.schema import checks
from wisearc.core.schema.documents import build_json_schema
from wisearc.formats.jobs.job_json import ITEMS

_LINE = f"^{checks.LINE}$"
_NUMBER = {"type": "number"}


def _object(properties: dict[str, Any], needed: list[str] | None = None) -> dict[str, Any]:
    return {
        "type": "object",
        "required": list(properties) if needed is None else needed,
        "properties": properties,
        "additionalProperties": False,
    }


def _line(most: int, **more: Any) -> dict[str, Any]:
    return {"type": "string", "maxLength": most, "pattern": _LINE, **more}


def job_schema() -> dict[str, Any]:
    """Return the schema of a job file, from its declarations."""
    head = {"format": {"const": "wisearc/job"}, "version": {"const": 1}}
    properties: dict[str, Any] = {**head, **dict(build_json_schema(Job))["properties"]}
    return {
        "title": "Parts, and the seams that join them",
        **_object(properties, ["format", "version"]),
    }


def _both(*names: str) -> dict[str, Any]:
    return {key: {"type": "string"} for name in names for key in (name, f"{name}_in")}


def _null(one: dict[str, Any]) -> dict[str, Any]:
    return {**one, "type": [one["type"], "null"]}


# Items that an order can lack.
_RARE = ("piece_s", "tack_s", "check_s")


def _items() -> dict[str, Any]:
    return {key: {"type": "number", "minimum": 0} for key in ("cost_s", *ITEMS, *_RARE)}


def job_plan_schema() -> dict[str, Any]:
    """Return the schema of the plan of a job."""
    text, whole = {"type": "string"}, {"type": "integer"}
    keys = {"type": "array", "items": text}
    pair = {"type": "array", "minItems": 2, "maxItems": 2, "items": _NUMBER}
    step = _object(
        {
            "kind": {"enum": ["tack", "check", "weld", "piece"]},
            "seam": text,
            "section": _null(whole),
            **_both("title", "change"),
            "start_s": _NUMBER,
            "end_s": _NUMBER,
            "touched": keys,
            "wait_s": _NUMBER,
            "wait_for": _null(text),
            "fills": {"type": "boolean"},
        }
    )
    item = {
        "list": text,
        "key": text,
        **_both("item"),
        "need": _NUMBER,
        "have": _null(_NUMBER),
        "unit": text,
        "money": _null(_NUMBER),
    }
    warp = {
        "verdict": {"enum": list(VERDICTS)},
        "force_kn": pair,
        "stress_mpa": pair,
        "buckles_mpa": _NUMBER,
        "ratio": _NUMBER,
        "free_mm": _NUMBER,
        "far_edge": {"enum": ["free", "joined"]},
        "bow_mm": _null(pair),
        "pull_deg": _null(_NUMBER),
    }
    lever = _object({"what": text, **_both("text"), **warp})
    way = _object({"order": keys, **_items()}, ["order", "cost_s", *ITEMS])
    cylinder = _object(
        {
            "name": text,
            "holds_l": _NUMBER,
            "used_l": _NUMBER,
            "ends_at": _null(text),
            "piece": _null(whole),
        }
    )
    items = {"type": "array", "items": _object(item)}
    take = _object(
        {
            "argon_l": _NUMBER,
            "by_gas": {"type": "object", "additionalProperties": _NUMBER},
            "share_of_cylinder": _NUMBER,
            "cylinders": {"type": "array", "items": cylinder},
            "lacking_l": _NUMBER,
            "rods": items,
            "tungstens": items,
            "bars": items,
            "money": _null(_NUMBER),
        }
    )
    reason = _object(
        {
            **_both("text"),
            "source": text,
            "mark": text,
            "source_key": text,
            "formula": text,
            **_both("worked"),
        },
        ["text", "source", "mark"],
    )
    why = {"type": "array", "items": reason}
    pull = _object(
        {
            **dict.fromkeys(("left_kn", "middle_kn", "right_kn", "lean_kn", "most_kn"), _NUMBER),
            "most_after": _null(text),
        }
    )
    properties = {
        "format": {"const": "wisearc/job-plan"},
        "version": {"const": 1},
        "title": text,
        "quantity": whole,
        "order": keys,
        **_items(),
        "proved_best": {"type": "boolean"},
        "bound_s": _NUMBER,
        "by_hand": {"type": "boolean"},
        "steps": {"type": "array", "items": step},
        "batch": {
            "anyOf": [
                _object({"cheaper": {"enum": ["piece", "seam"]}, "by_piece": way, "by_seam": way}),
                {"type": "null"},
            ]
        },
        "take": take,
        "buy": {"type": "array", "items": _object({**item, "short": _NUMBER})},
        "warp": {
            "type": "array",
            "items": _object(
                {
                    "seam": text,
                    **warp,
                    "counters": {"type": "array", "items": _object(_both("text"))},
                    "free_told": {"type": "boolean"},
                    "levers": {"type": "array", "items": lever},
                    "mark": {"const": "estimate"},
                }
            ),
        },
        "pull": pull,
        "why": why,
        "warp_why": why,
        "cautions": {
            "type": "array",
            "items": _object(
                {"level": {"enum": list(LEVELS)}, "code": text, "at": text, **_both("text")}
            ),
        },
    }
    return {
        "title": "The order of a job's seams, and all that follows from it",
        **_object(properties, [key for key in properties if key not in _RARE]),
    }
