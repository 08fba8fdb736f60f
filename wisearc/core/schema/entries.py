"""The declaration of a document field, once, on the type of the document or of its part.

Parser, writer, JSON Schema, links, forms and labels use it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any

from msgspec import NODEFAULT, Struct
from msgspec.structs import replace

from ..catalogue.rows import Row
from .figures import cache_by_type, read_declarations
from .json_types import Json


class Option(Struct, frozen=True):
    """An allowed name of a field: its label and a note."""

    label: str
    note: str = ""


Names = Callable[[], Mapping[str, Option]]


class Own(Struct, frozen=True):
    """A field with separate functions for reading and writing.

    Attributes:
        read: Returns the value from field name and data; raises InputError.
        write: Returns the data of the value.
        schema: Returns its JSON Schema.
    """

    read: Callable[[str, Any], Any]
    write: Callable[[Any], Json]
    schema: Callable[[], dict[str, Json]]


class Entry(Struct, frozen=True):
    """A field: its kind, its limits and its uses in the interface.

    Attributes:
        kind: "name" (one of `names`), "names" (several of them, each once), "row" (a name whose
            catalogue row is saved), "length" (text in any unit, or NAME_mm), "number", "count" (an
            integer), "flag", "text" (one line of at most `high` characters), "texts" (at most
            `most` such, each once), "lines" (text of several lines), "date", "moment", "sha256",
            "object", "objects" and "by-name" (of the type `of`, at most `most`), "own" (see `Own`).
        word: The word of the sentence whose editor contains it, or "".
        answer: The answer of the plan that it overrides, or "".
        usual: The default in a file or link ("": none).
        sizes: The only allowed numbers, or () for any within the limits.
        gauged: Whether people also type it as a gauge number.
        planned: The corresponding figure of the plan, as "part.key", or "".
        null: Whether a missing value is written as null.
        missing: The error text for a missing required field.
        for_trait: The trait of a joint kind that the field needs, or "".
    """

    kind: str
    label: str = ""
    word: str = ""
    hint: str = ""
    answer: str = ""
    key: str = ""
    usual: Any = None
    names: Names | None = None
    rows: Callable[[], Mapping[str, Row]] | None = None
    low: float = 0.0
    high: float = 0.0
    quantity: str = "plain"
    unit: str = ""
    sizes: tuple[float, ...] = ()
    required: bool = False
    gauged: bool = False
    of: type | None = None
    most: int = 0
    own: Own | None = None
    planned: str = ""
    null: bool = False
    missing: str = "is missing"
    for_trait: str = ""

    def allowed(self) -> Mapping[str, Option]:
        """Return the allowed names in order."""
        if self.rows is not None:
            return {key: Option(row.name, row.note) for key, row in self.rows().items()}
        return self.names() if self.names is not None else {}


def list_options(names: Mapping[str, str | tuple[str, str]] | Iterable[str]) -> Names:
    """Return names fixed in the code, with their labels and notes."""
    pairs = names.items() if isinstance(names, Mapping) else ((name, name) for name in names)
    options = {
        key: Option(*text) if isinstance(text, tuple) else Option(text) for key, text in pairs
    }
    return lambda: options


@cache_by_type
def _read_entries(of: type) -> Mapping[str, Entry]:
    """Return the declared fields of a type by attribute."""
    return {
        name: entry
        for name, declared in read_declarations(of).items()
        for entry in declared
        if isinstance(entry, Entry)
    }


@cache_by_type
def read_entries(of: type) -> Mapping[str, Entry]:
    """Return the declared fields of a type by key in a file, in order, with `key` filled in."""
    entries = _read_entries(of).items()
    return {entry.key or name: replace(entry, key=entry.key or name) for name, entry in entries}


@cache_by_type
def read_attributes(of: type) -> Mapping[str, str]:
    """Return the attribute of each field by its key in a file."""
    return {entry.key or name: name for name, entry in _read_entries(of).items()}


@cache_by_type
def read_defaults(of: type[Struct]) -> Mapping[str, Any]:
    """Return the default of each field by its key in a file.

    Required fields and tables by name, which are always written, are omitted.
    """
    entries, names, values = _read_entries(of), of.__struct_fields__, of.__struct_defaults__
    # The defaults belong to the last fields.
    last = zip(names[len(names) - len(values) :], values, strict=True)
    return {
        entries[name].key or name: value
        for name, value in last
        if name in entries and entries[name].kind != "by-name" and value is not NODEFAULT
    }
