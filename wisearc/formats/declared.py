"""Dataclasses of declared figures ↔ plain data, and the schema of that data: one walk over the
declarations each way.
"""

from __future__ import annotations

import types
from collections.abc import Mapping
from typing import Any, TypeVar, Union, get_args, get_origin, get_type_hints

from msgspec import Struct

from ..core.errors import InputError
from ..core.schema import json_types
from ..core.schema.figures import Figure, cache_by_type, list_figures
from ..core.schema.json_types import Unparsed

T = TypeVar("T")
# the most a figure of each kind can be: beyond what any joint that can be asked for comes to, near
# enough that it can be
# drawn and added up
MAX_BY_QUANTITY = {
    "length": 1e5,
    "stock": 1e5,
    "size": 1e7,
    "speed": 1e4,
    "flow": 1e4,
    "temperature": 1e9,
    "heat": 1e4,
    "volume": 1e6,
    "current": 1e6,
    "rate": 1e4,
    "percent": 1e5,
    "ferrite": 1e3,
    "seconds": 1e6,
    "duration": 1e6,
    "degrees": 360.0,
    "ppm": 1e6,
    "count": 1e5,
}
MAX_OTHER_QUANTITY = 1e7
MAX_TEXT_LENGTH = 4000
MOST_ITEMS = 2000


def get_max(quantity: str) -> float:
    """The most a figure of a kind of quantity can be."""
    return MAX_BY_QUANTITY.get(quantity, MAX_OTHER_QUANTITY)


class Shape(Struct, frozen=True):
    """What a figure's data is: the type of one of it, whether it can be null, whether it is a
    list.
    """

    kind: type
    null: bool
    many: bool


@cache_by_type
def read_shapes(of: type) -> Mapping[str, Shape]:
    """The shape of every figure of a type."""
    hints = get_type_hints(of, localns=vars(json_types))
    return {key: _build_shape(hints[key]) for key in list_figures(of)}


def _build_shape(hint: Any) -> Shape:
    null = get_origin(hint) in (Union, types.UnionType)
    if null:
        hint = next(arg for arg in get_args(hint) if arg is not type(None))
    many = get_origin(hint) is tuple
    return Shape(get_args(hint)[0] if many else hint, null, many)


def to_data(value: Any) -> Any:
    """Plain data of a figure, or of a struct of figures."""
    if isinstance(value, tuple):
        return [to_data(v) for v in value]
    if isinstance(value, Struct):
        return {key: to_data(getattr(value, key)) for key in list_figures(type(value))}
    return value


def of_data(of: type[T], data: Unparsed) -> T:
    """A struct of figures from data that was written by `to_data` here: nothing is checked."""
    found = {}
    for key, declared in list_figures(of).items():
        inner = declared.holds
        found[key] = data[key] if inner is None else tuple(of_data(inner, one) for one in data[key])
    return of(**found)


def read_figures(of: type, data: Any, where: str) -> dict[str, Any]:
    """The figures of a type from plain data, by key. Raises InputError naming the key, the value
    and what is allowed.
    """
    check_keys(data, list_figures(of), where)
    return {key: read_figure(of, key, data[key], f"{where}.{key}") for key in list_figures(of)}


def check_keys(
    data: Any, needed: Unparsed | tuple[str, ...], where: str, more: tuple[str, ...] = ()
) -> None:
    """Refuse data that is no object, lacks a key or holds one that is not known. Raises
    InputError.
    """
    if not isinstance(data, dict):
        raise InputError(where or "file", data, "must be an object")
    prefix = f"{where}." if where else ""
    for key in data:
        if key not in needed and key not in more:
            raise InputError(
                prefix + key,
                data[key],
                "is not a key here. Allowed keys: " + ", ".join((*needed, *more)),
            )
    for key in needed:
        if key not in data:
            raise InputError(prefix + key, None, "is missing")


def read_figure(of: type, key: str, data: Any, where: str) -> Any:
    """One figure from plain data. Raises InputError."""
    shape, declared = read_shapes(of)[key], list_figures(of)[key]
    if data is None and shape.null:
        return None
    if not shape.many:
        return _read_item(shape.kind, declared, data, where)
    if not isinstance(data, list) or len(data) > MOST_ITEMS:
        what = f"{len(data)} items" if isinstance(data, list) else data
        raise InputError(where, what, f"must be a list of at most {MOST_ITEMS}")
    return tuple(
        _read_item(shape.kind, declared, item, f"{where}[{i}]") for i, item in enumerate(data)
    )


def _read_item(kind: type, declared: Figure, data: Any, where: str) -> Any:
    if declared.holds:
        return declared.holds(**read_figures(declared.holds, data, where))
    if kind is bool:
        if not isinstance(data, bool):
            raise InputError(where, data, "must be true or false")
        return data
    if kind is str:
        return read_text(data, where)
    whole = kind is int
    if isinstance(data, bool) or not isinstance(data, int if whole else int | float):
        raise InputError(where, data, "must be a whole number" if whole else "must be a number")
    most = get_max(declared.quantity)
    low = -most if declared.signed else 0.0
    # what is not a number is not between them either
    if not low <= data <= most or (declared.positive and data == 0):
        least = "more than 0" if declared.positive else f"from {low:g}"
        raise InputError(where, data, f"must be {least} to {most:g}")
    return data if whole else float(data)


def read_text(data: Any, where: str) -> str:
    """Text from plain data. Raises InputError."""
    if not isinstance(data, str) or len(data) > MAX_TEXT_LENGTH:
        raise InputError(where, data, f"must be text of at most {MAX_TEXT_LENGTH} characters")
    return data
