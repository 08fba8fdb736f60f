"""The JSON Schemas that ship with the product, and checking data against them."""

from __future__ import annotations

import json
from functools import cache
from importlib.resources import files
from typing import TYPE_CHECKING, Any

from ..core.errors import BadInput, UnknownName

if TYPE_CHECKING:
    from jsonschema import Draft202012Validator
    from jsonschema.exceptions import ValidationError

NAMES = ("joint", "plan", "run", "procedure")


def schema(name: str) -> dict[str, Any]:
    """The JSON Schema of a format, by name. Raises UnknownName."""
    if name not in NAMES:
        raise UnknownName("schema", name, list(NAMES))
    text = files(__package__).joinpath("schemas", f"{name}.schema.json").read_text(encoding="utf-8")
    loaded: dict[str, Any] = json.loads(text)
    return loaded


@cache
def _validator(name: str) -> Draft202012Validator:
    from jsonschema import Draft202012Validator

    return Draft202012Validator(schema(name))


def check(name: str, data: Any) -> None:
    """Refuse data that does not follow the schema. Raises BadInput with key, value and what is allowed."""
    errors = sorted(_validator(name).iter_errors(data), key=lambda e: (len(e.absolute_path), str(e.json_path)))
    if errors:
        raise _sentence(errors[0], name)


def _sentence(error: ValidationError, name: str) -> BadInput:
    where = _path(error) or "file"
    value, rule = error.instance, error.validator_value
    match error.validator:
        case "enum":
            return UnknownName(where, value, [str(v) for v in rule])
        case "const":
            return BadInput(where, value, f"must be {rule}")
        case "additionalProperties":
            allowed = error.schema.get("properties", {})
            key = next(k for k in value if k not in allowed)
            return BadInput(
                f"{where}.{key}" if where != "file" else key,
                value[key],
                f"is not a key of a {name}; allowed are " + ", ".join(allowed),
            )
        case "required":
            missing = next(k for k in rule if k not in value)
            return BadInput(f"{where}.{missing}" if where != "file" else missing, None, "is missing")
        case "minimum" | "maximum":
            low, high = error.schema.get("minimum"), error.schema.get("maximum")
            limits = (
                f"must be from {low:g} to {high:g}"
                if low is not None and high is not None
                else f"must be {'at least' if low is not None else 'at most'} {rule:g}"
            )
            return BadInput(where, value, limits)
        case "exclusiveMinimum":
            return BadInput(where, value, f"must be more than {rule:g}")
        case "type":
            kinds = rule if isinstance(rule, list) else [rule]
            return BadInput(where, value, "must be " + " or ".join(kinds))
        case "not":
            text, number = rule["required"]
            return BadInput(text, value[text], f"is given twice, as {text} and {number}; give one of them")
        case "oneOf":
            keys = [option["required"][0] for option in rule]
            both = all(k in value for k in keys)
            return BadInput(
                f"{where}.{keys[0]}",
                value.get(keys[0]),
                f"is given twice, as {' and '.join(keys)}; give one of them"
                if both
                else f"is missing; give {' or '.join(keys)}",
            )
        case "minItems" | "maxItems":
            low, high = error.schema.get("minItems", 0), error.schema.get("maxItems", "any")
            return BadInput(where, f"{len(value)} items", f"must hold {low} to {high}")
        case "maxLength":
            return BadInput(where, value[:40] + "…", f"must be at most {rule} characters")
        case _:
            return BadInput(where, value, error.message)


def _path(error: ValidationError) -> str:
    text = ""
    for part in error.absolute_path:
        text += f"[{part}]" if isinstance(part, int) else f".{part}" if text else str(part)
    return text
