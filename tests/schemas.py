"""The shipped schemas in a general-purpose validator, as a reference for the parsers."""

from __future__ import annotations

from functools import cache
from typing import Any

from jsonschema import Draft202012Validator
from referencing import Registry, Resource

from wisearc.formats.schema import NAMES, load_schema


@cache
def validator(name: str) -> Draft202012Validator:
    """Return the validator of a format."""
    shipped = [load_schema(n) for n in NAMES]
    registry = Registry().with_resources((s["$id"], Resource.from_contents(s)) for s in shipped)
    return Draft202012Validator(load_schema(name), registry=registry)


def check(name: str, data: Any) -> None:
    """Raise a ValidationError of jsonschema if data does not follow the schema."""
    validator(name).validate(data)


def follows(name: str, data: Any) -> bool:
    """Return whether data follows the schema."""
    return bool(validator(name).is_valid(data))
