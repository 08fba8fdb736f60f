"""Convert declared figures to plain data and back, and build the schema of that data.

Each direction uses the declarations once.
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
# The maximum of each kind of figure: above any possible joint, and small enough to draw and to add.
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
MAX_ITEMS = 2000


def get_max(quantity: str) -> float:
    """Return the maximum of a kind of quantity."""
    return MAX_BY_QUANTITY.get(quantity, MAX_OTHER_QUANTITY)


class Shape(Struct, frozen=True):
    """The data of a figure: type, whether it can be null, whether it is a list."""

    kind: type
    null: bool
    many: bool


@cache_by_type
def read_shapes(of: type) -> Mapping[str, Shape]:
    """Return the data type of every figure of a type."""
    hints = get_type_hints(of, localns=vars(json_types))
    return {key: _build_shape(hints[key]) for key in list_figures(of)}


def _build_shape(hint: Any) -> Shape:
    null = get_origin(hint) in (Union, types.UnionType)
    if null:
        hint = next(arg for arg in get_args(hint) if arg is not type(None))
    many = get_origin(hint) is tuple
    return Shape(get_args(hint)[0] if many else hint, null, many)


def to_data(value: Any) -> Any:
    """Return the plain data of a figure or of a struct of figures."""
    if isinstance(value, tuple):
        return [to_data(v) for v in value]
    if isinstance(value, Struct):
        return {key: to_data(getattr(value, key)) for key in list_figures(type(value))}
    return value


def read_trusted(of: type[T], data: Unparsed) -> T:
    """Return a struct of figures from data of `to_data`, without checks.

    Args:
        of: The type.
        data: The data.
    """
    values = {}
    for key, declared in list_figures(of).items():
        inner = declared.holds
        values[key] = (
            data[key] if inner is None else tuple(read_trusted(inner, item) for item in data[key])
        )
    return of(**values)


def read_figures(of: type, data: Any, where: str) -> dict[str, Any]:
    """Parse the figures of a type from plain data, by key.

    Args:
        of: The type.
        data: The data.
        where: Key for errors.

    Raises:
        InputError: A value is wrong. The error names key, value and rule.
    """
    check_keys(data, list_figures(of), where)
    return {key: read_figure(of, key, data[key], f"{where}.{key}") for key in list_figures(of)}


def check_keys(
    data: Any, needed: Unparsed | tuple[str, ...], where: str, more: tuple[str, ...] = ()
) -> None:
    """Check the keys of an object.

    Args:
        data: The object.
        needed: Required keys.
        where: Key for errors.
        more: Optional keys.

    Raises:
        InputError: The data is no object, or a key is missing or unknown.
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
    """Parse one figure from plain data.

    Args:
        of: The type.
        key: The figure.
        data: The data.
        where: Key for errors.

    Raises:
        InputError: The value is wrong.
    """
    shape, declared = read_shapes(of)[key], list_figures(of)[key]
    if data is None and shape.null:
        return None
    if not shape.many:
        return _read_item(shape.kind, declared, data, where)
    if not isinstance(data, list) or len(data) > MAX_ITEMS:
        shown_value = f"{len(data)} items" if isinstance(data, list) else data
        raise InputError(where, shown_value, f"must be a list of at most {MAX_ITEMS}")
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
    is_integer = kind is int
    if isinstance(data, bool) or not isinstance(data, int if is_integer else int | float):
        raise InputError(
            where, data, "must be a whole number" if is_integer else "must be a number"
        )
    maximum = get_max(declared.quantity)
    low = -maximum if declared.signed else 0.0
    # NaN fails the comparison too.
    if not low <= data <= maximum or (declared.positive and data == 0):
        minimum = "more than 0" if declared.positive else f"from {low:g}"
        raise InputError(where, data, f"must be {minimum} to {maximum:g}")
    return data if is_integer else float(data)


def read_text(data: Any, where: str) -> str:
    """Parse a text.

    Args:
        data: The data.
        where: Key for errors.

    Raises:
        InputError: The data is not text.
    """
    if not isinstance(data, str) or len(data) > MAX_TEXT_LENGTH:
        raise InputError(where, data, f"must be text of at most {MAX_TEXT_LENGTH} characters")
    return data
