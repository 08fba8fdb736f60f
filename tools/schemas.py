"""Build the JSON Schemas of the open formats from the declarations of the parsers.

`documents.py schemas` writes them.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from tools.schemas_arc import arc_log_schema
from tools.schemas_heat import heat_schema
from tools.schemas_job import job_plan_schema, job_schema
from tools.schemas_measure import measure_schema
from tools.schemas_practice import practice_schema, track_schema
from tools.schemas_reading import reading_schema
from wisearc.core.joint.joint import ALL_ROUND, Joint, Member
from wisearc.core.joint.section import Section
from wisearc.core.plan.pins import PINS
from wisearc.core.plan.plan import list_choice_kinds
from wisearc.core.reasons import LEVELS
from wisearc.core.run import verification
from wisearc.core.run.run import MAX_RUNS, Run
from wisearc.core.run.signature import MAX_KEYS as MAX_SHOP_KEYS
from wisearc.core.run.signature import MAX_SIGNATURES, ShopKey, Signature
from wisearc.core.schema import checks
from wisearc.core.schema.documents import build_json_schema
from wisearc.core.schema.entries import Entry, read_entries
from wisearc.core.schema.figures import list_figures
from wisearc.core.shop.shop import Shop
from wisearc.core.typed_quantities import MAX_TYPED_LENGTH
from wisearc.formats.declared import (
    MAX_ITEMS,
    MAX_OTHER_QUANTITY,
    MAX_TEXT_LENGTH,
    get_max,
    read_shapes,
)
from wisearc.formats.plan_json import MAX_KEY_LENGTH, MAX_KEYS, MAX_ROWS, MAX_WORD_LENGTH, OWN
from wisearc.formats.procedure_json import (
    LETTER,
    MAX_BANDS,
    MAX_RANGE_KEY_LENGTH,
    MAX_SHOP,
    MAX_TITLE_LENGTH,
    NUMBER,
    STATES,
)
from wisearc.formats.run_json import LibraryData
from wisearc.formats.upgrades.steps import STEPS

_TEXT = {"type": "string", "maxLength": MAX_TEXT_LENGTH}
_LINE = f"^{checks.LINE}$"
_WORD = {
    "type": ["string", "number", "boolean", "null"],
    "maxLength": MAX_WORD_LENGTH,
    "pattern": _LINE,
    "minimum": -MAX_OTHER_QUANTITY,
    "maximum": MAX_OTHER_QUANTITY,
}
_WORDS = {
    "type": "object",
    "maxProperties": MAX_KEYS,
    "propertyNames": {"maxLength": MAX_KEY_LENGTH, "pattern": _LINE},
    "additionalProperties": _WORD,
}


def schema_text(name: str) -> str:
    """Return the present JSON Schema of a format, which the shipped file must equal."""
    made = {
        "joint": _joint,
        "plan": _plan,
        "run": _run,
        "procedure": _procedure,
        "shop": _shop,
        "job": job_schema,
        "job-plan": job_plan_schema,
        "arc-log": arc_log_schema,
        "reading": reading_schema,
        "heat": heat_schema,
        "track": track_schema,
        "practice": practice_schema,
        "measure": measure_schema,
    }[name]()
    head = {"$schema": "https://json-schema.org/draft/2020-12/schema", "$id": f"wisearc/{name}/1"}
    return json.dumps(head | made, ensure_ascii=False, indent=1) + "\n"


def build_schema(of: type, more: Mapping[str, Any] | None = None) -> dict[str, Any]:
    """Return the JSON Schema of a type of figures.

    `more` has further required properties.
    """
    properties = {key: _figure_schema(of, key) for key in list_figures(of)} | dict(more or {})
    return {
        "type": "object",
        "required": list(properties),
        "properties": properties,
        "additionalProperties": False,
    }


def nested(of: type) -> Iterator[type]:
    """Yield the types that the figures of a type contain."""
    return (f.holds for f in list_figures(of).values() if f.holds)


def _figure_schema(of: type, key: str) -> dict[str, Any]:
    shape, declared = read_shapes(of)[key], list_figures(of)[key]
    one: dict[str, Any]
    if declared.holds:
        one = {"$ref": f"#/$defs/{declared.holds.__name__}"}
    elif shape.kind is str:
        one = {"type": "string", "maxLength": MAX_TEXT_LENGTH}
    elif shape.kind is bool:
        one = {"type": "boolean"}
    else:
        least = "exclusiveMinimum" if declared.positive else "minimum"
        most = get_max(declared.quantity)
        one = {
            "type": "integer" if shape.kind is int else "number",
            least: -most if declared.signed else 0,
            "maximum": most,
        }
    if shape.many:
        one = {"type": "array", "maxItems": MAX_ITEMS, "items": one}
    if shape.null:
        one = (
            {**one, "type": [one["type"], "null"]}
            if "type" in one
            else {"anyOf": [one, {"type": "null"}]}
        )
    return {"description": declared.label, **one} if not declared.holds else one


def _object(properties: dict[str, Any], needed: Iterable[str] | None = None) -> dict[str, Any]:
    required = list(properties if needed is None else needed)
    return {
        "type": "object",
        "required": required,
        "properties": properties,
        "additionalProperties": False,
    }


def _head(name: str, more: dict[str, Any] | None = None) -> dict[str, Any]:
    return {"format": {"const": f"wisearc/{name}"}, "version": {"const": 1}, **(more or {})}


def _joint() -> dict[str, Any]:
    member = _object(_entry_properties(Member), ["metal"]) | _lengths(Member)
    pins = {key: _pin(key) for key in PINS}
    properties = _head("joint") | _entry_properties(Joint)
    properties["members"] = {"type": "array", "minItems": 2, "maxItems": 3, "items": member}
    properties["pins"] = {
        "type": ["object", "null"],
        "properties": pins,
        "additionalProperties": False,
    }
    needed = ["format", "version", "joint", "members"]
    return {"title": "What is to be welded", **_object(properties, needed), **_lengths(Joint)}


def _entry_properties(of: type) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for key, declared in read_entries(of).items():
        if declared.kind == "length":
            words = f", or {ALL_ROUND}" if key == "length" else ""
            found[key] = {
                "description": f"{declared.label}, as people write it{words}",
                "type": ["string", "null"],
                "maxLength": MAX_TYPED_LENGTH,
            }
            found[f"{key}_mm"] = {
                "type": ["number", "null"],
                "minimum": declared.low,
                "maximum": declared.high,
            }
        else:
            found[key] = (
                {"description": declared.label} | _entry(declared)
                if declared.label
                else _entry(declared)
            )
    return found


def _entry(declared: Entry) -> dict[str, Any]:
    if declared.kind == "number":
        kinds = ["number", "null"] if declared.usual is None else "number"
        return {"type": kinds, "minimum": declared.low, "maximum": declared.high}
    if declared.kind == "text":
        return {"type": "string", "maxLength": int(declared.high), "pattern": _LINE}
    return {"enum": list(declared.allowed())}


def _lengths(of: type) -> dict[str, Any]:
    """Return the condition that a required length is given, as text or in mm.

    A schema cannot express that both agree.
    """
    rules: list[dict[str, Any]] = []
    for key, declared in read_entries(of).items():
        if declared.kind == "length" and declared.required:
            rules.append(
                {
                    "anyOf": [
                        {"properties": {k: {"not": {"type": "null"}}}, "required": [k]}
                        for k in (key, f"{key}_mm")
                    ]
                }
            )
    return {"allOf": rules} if rules else {}


def _pin(key: str) -> dict[str, Any]:
    limits = PINS[key].by_hand
    found = {"description": PINS[key].label}
    if limits.allowed:
        return found | {"enum": list(limits.allowed)}
    return found | {"type": "number", "minimum": limits.low, "maximum": limits.high}


def _texts(*names: str) -> dict[str, Any]:
    return {key: _TEXT for name in names for key in (name, f"{name}_in")}


def _rows(item: str) -> dict[str, Any]:
    return {"type": "array", "maxItems": MAX_ROWS, "items": {"$ref": f"#/$defs/{item}"}}


def _plan() -> dict[str, Any]:
    parts: dict[str, dict[str, Any]] = {OWN: _object({})}
    for kind in list_choice_kinds():
        parts[kind.part] = build_schema(kind, {"why": _rows("reason"), "others": _rows("other")})
    for kind in list_choice_kinds():
        for key, declared in list_figures(kind).items():
            if declared.part:
                moved = parts[kind.part]["properties"].pop(key)
                parts[kind.part]["required"].remove(key)
                parts[declared.part]["properties"][key] = moved
                parts[declared.part]["required"].append(key)
    properties = {
        **_head("plan", {"minor": _minor("plan")}),
        **_texts("title"),
        "sentence": _rows("part"),
        "joint": {"$ref": "#/$defs/joint"},
        "section": {"$ref": "#/$defs/Section"},
        **parts.pop(OWN)["properties"],
        **parts,
        "after": _rows("reason"),
        "by_hand": _rows("by_hand"),
        "cautions": _rows("caution"),
    }
    return {
        "title": "A joint's set-up",
        **_object(properties, list(properties)),
        "$defs": _plan_defs(),
    }


def _plan_defs() -> dict[str, Any]:
    sets = _WORDS
    reason = {
        **_texts("text"),
        "source": _TEXT,
        "mark": _TEXT,
        "source_key": _TEXT,
        "formula": _TEXT,
        **_texts("worked"),
    }
    other = {
        **_texts("value", "text"),
        "source": _TEXT,
        "mark": _TEXT,
        "sets": sets,
        "school": _TEXT,
    }
    caution = {
        "level": {"enum": list(LEVELS)},
        "code": _TEXT,
        "at": _TEXT,
        **_texts("text"),
        "mend": _TEXT,
        "sets": sets,
    }
    found = {
        "joint": kept_joint(),
        "reason": _object(reason, ["text", "source", "mark"]),
        "other": _object(other, ["value", "text", "source", "mark", "sets"]),
        "caution": _object(caution, ["level", "code", "at", "text"]),
        "part": _object({**_texts("text"), "word": _TEXT, "tail": _TEXT}, ["text", "word", "tail"]),
        "by_hand": _object({"key": _TEXT, "at": _TEXT, **_texts("text")}, ["key", "at", "text"]),
        "Section": build_schema(Section),
    }
    held = [*nested(Section), *(inner for kind in list_choice_kinds() for inner in nested(kind))]
    return found | {kind.__name__: build_schema(kind) for kind in held}


def kept_joint() -> dict[str, Any]:
    """Return the schema of a saved joint, whose keys and names are those of its date."""
    properties = {
        "format": _WORD,
        "version": _WORD,
        "joint": {"type": "string", "maxLength": MAX_WORD_LENGTH, "pattern": _LINE},
        "members": {"type": "array", "minItems": 2, "maxItems": 3, "items": _WORDS},
        "pins": _WORDS,
    }
    return {
        "type": "object",
        "required": ["joint", "members"],
        "properties": properties,
        "maxProperties": MAX_KEYS,
        "propertyNames": _WORDS["propertyNames"],
        "additionalProperties": _WORD,
    }


def _run() -> dict[str, Any]:
    """Return the schema of a run, from its declarations."""
    found: dict[str, Any] = dict(build_json_schema(Run))
    properties = {**_head("run", {"minor": _minor("run")}), **found["properties"]}
    required = ("format", "version", *found["required"])
    return {"title": "A run as it was made", **_object(properties, required)}


def _or_null(one: dict[str, Any]) -> dict[str, Any]:
    return {"anyOf": [one, {"type": "null"}]}


def _minor(name: str) -> dict[str, Any]:
    return {"type": "integer", "minimum": 0, "maximum": len(STEPS[name][1])}


def _procedure() -> dict[str, Any]:
    run = _run()
    moment = {"type": ["string", "null"], "pattern": f"^{checks.MOMENT}$"}
    run["properties"] |= dict(build_json_schema(LibraryData))["properties"]
    end = {"type": ["number", "null"], "minimum": -1e7, "maximum": 1e7}
    properties = {
        **_head("procedure", {"minor": _minor("procedure")}),
        "number": {"type": "string", "pattern": f"^{NUMBER}$"},
        "revision": {"type": "string", "pattern": f"^{LETTER}$"},
        "status": {"enum": list(STATES)},
        "title": {"type": "string", "maxLength": MAX_TITLE_LENGTH, "pattern": _LINE},
        "joint": {"$ref": "#/$defs/joint"},
        "plan": {"$ref": "../plan/1"},
        "bands": {
            "type": "object",
            "required": [key for key in verification.BANDS if key not in verification.LATER],
            "maxProperties": MAX_BANDS,
            "propertyNames": {"maxLength": MAX_RANGE_KEY_LENGTH, "pattern": _LINE},
            "additionalProperties": {"type": "array", "minItems": 2, "maxItems": 2, "items": end},
        },
        "runs": {"type": "array", "maxItems": MAX_RUNS, "items": {"$ref": "#/$defs/run"}},
        "signatures": {
            "type": "array",
            "maxItems": MAX_SIGNATURES,
            "items": build_json_schema(Signature),
        },
        "keys": {"type": "array", "maxItems": MAX_SHOP_KEYS, "items": build_json_schema(ShopKey)},
        "verified_by": {"type": ["integer", "null"], "minimum": 0, "maximum": MAX_RUNS - 1},
        "changed": moment,
        "proved": moment,
        "created": moment,
        "removed": moment,
        "taken_as": {"type": ["string", "null"], "pattern": f"^{NUMBER}$"},
        "from": {"type": ["string", "null"], "maxLength": MAX_SHOP, "pattern": _LINE},
    }
    needed = ["format", "version", "number", "revision", "status", "joint", "plan", "bands", "runs"]
    return {
        "title": "A revision of a procedure, with its runs",
        **_object(properties, needed),
        "$defs": {"joint": kept_joint(), "run": run},
    }


def _shop() -> dict[str, Any]:
    properties = {**_head("shop"), **dict(build_json_schema(Shop))["properties"]}
    return {
        "title": "What a shop owns; a list that is left out or null was not entered",
        **_object(properties, ("format", "version")),
    }
