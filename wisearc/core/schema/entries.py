"""What a field of a document is, declared once, on the type of the document or of its part.

Reading and writing its data, its JSON Schema, the link, the forms and their words are read from it.
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
    """One of the names a field can take: how it reads, and a note."""

    label: str
    note: str = ""


Names = Callable[[], Mapping[str, Option]]


class Own(Struct, frozen=True):
    """A field that is read and written by functions of its own.

    Attributes:
        read: Makes the value of a field's name and data; raises BadInput.
        write: Makes the data of the value.
        schema: Makes its JSON Schema.
    """

    read: Callable[[str, Any], Any]
    write: Callable[[Any], Json]
    schema: Callable[[], dict[str, Json]]


class Entry(Struct, frozen=True):
    """A field: its kind and limits, and where people meet it.

    Attributes:
        kind: "name" (one of `names`), "names" (several of them, each once), "row" (a name whose row
            of the catalogue is kept), "length" (text in any unit, or NAME_mm), "number", "count"
            (a whole number), "flag", "text" (one line of at most `high` characters), "texts"
            (at most `most` such, each once), "lines" (text of several), "date", "moment",
            "sha256", "object", "objects" and "by-name" (of the type `of`, at most `most`),
            "own" (see `Own`).
        word: The word of the sentence whose editor holds it, "" for none.
        answer: The answer of the plan that it sets by hand, "" for none.
        usual: Where it is left out of a file or link ("": nothing).
        sizes: The only numbers it can be, (): any within its limits.
        gauged: Whether people also tell it by a gauge number.
        planned: The plan's figure that says the same, as "part.key", "" for none.
        null: Whether it is written as null where there is nothing to tell.
        missing: What is said where it is left out and required.
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

    def allowed(self) -> Mapping[str, Option]:
        """The names it can take, in order."""
        if self.rows is not None:
            return {key: Option(row.name, row.note) for key, row in self.rows().items()}
        return self.names() if self.names is not None else {}


def list_options(names: Mapping[str, str | tuple[str, str]] | Iterable[str]) -> Names:
    """Names fixed in the code, with how each reads and a note where there is one."""
    pairs = names.items() if isinstance(names, Mapping) else ((name, name) for name in names)
    found = {
        key: Option(*words) if isinstance(words, tuple) else Option(words) for key, words in pairs
    }
    return lambda: found


@cache_by_type
def _read_entries(of: type) -> Mapping[str, Entry]:
    """The entries that a type declares, by the name of their field."""
    return {
        name: one
        for name, declared in read_declarations(of).items()
        for one in declared
        if isinstance(one, Entry)
    }


@cache_by_type
def read_entries(of: type) -> Mapping[str, Entry]:
    """The fields that a type declares, by their key in a file, in order; `key` is filled in where
    it was not.
    """
    own = _read_entries(of).items()
    return {found.key or name: replace(found, key=found.key or name) for name, found in own}


@cache_by_type
def read_attributes(of: type) -> Mapping[str, str]:
    """The type's own name of each field, by its key in a file."""
    return {found.key or name: name for name, found in _read_entries(of).items()}


@cache_by_type
def read_defaults(of: type[Struct]) -> Mapping[str, Any]:
    """What each field of a type is where nothing is told, by its key in a file; those that
    must be told are left away, and tables by name, which are always written.
    """
    own, names, values = _read_entries(of), of.__struct_fields__, of.__struct_defaults__
    # The defaults are those of the last fields.
    last = zip(names[len(names) - len(values) :], values, strict=True)
    return {
        own[name].key or name: value
        for name, value in last
        if name in own and own[name].kind != "by-name" and value is not NODEFAULT
    }
