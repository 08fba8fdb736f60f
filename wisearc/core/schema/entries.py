"""What a field of a document is, declared once, on the dataclass of the document or of its part.

Reading and writing its data, its JSON Schema, the link, the forms and their words are read from it.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Iterable, Mapping
from dataclasses import MISSING, dataclass, field
from typing import Any

from ..catalogue.rows import Row
from .figures import Figure, by_type
from .json_types import Json


@dataclass(frozen=True)
class Option:
    """One of the names a field can take: how it reads, and a note."""

    label: str
    note: str = ""


Names = Callable[[], Mapping[str, Option]]


@dataclass(frozen=True)
class Own:
    """A field that is read and written by functions of its own.

    Attributes:
        read: Makes the value of a field's name and data; raises BadInput.
        write: Makes the data of the value.
        schema: Makes its JSON Schema.
    """

    read: Callable[[str, Any], Any]
    write: Callable[[Any], Json]
    schema: Callable[[], dict[str, Json]]


@dataclass(frozen=True)
class Entry:
    """A field: its kind and limits, and where people meet it.

    Attributes:
        kind: "name" (one of `names`), "names" (several of them, each once), "row" (a name whose row
            of the catalogue is kept), "length" (text in any unit, or NAME_mm), "number", "count"
            (a whole number), "flag", "text" (one line of at most `high` characters), "texts"
            (at most `most` such, each once), "lines" (text of several), "date", "moment",
            "sha256", "object", "objects" and "by-name" (of the dataclass `of`, at most `most`),
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


def entry(
    kind: str,
    default: Any = MISSING,
    kept: Figure | None = None,
    default_factory: Callable[[], Any] | None = None,
    **more: Any,
) -> Any:
    """A dataclass field that declares a field of a document; see `Entry`. Parameters: default and
    default_factory, of the dataclass; kept, how it is kept where it is a figure too.
    """
    declared: dict[str, Entry | Figure] = {"entry": Entry(kind, **more)}
    if kept is not None:
        declared["figure"] = kept
    if default_factory is not None:
        return field(default_factory=default_factory, metadata=declared)
    if default is MISSING:
        return field(metadata=declared)
    return field(default=default, metadata=declared)


def one_of(names: Mapping[str, str | tuple[str, str]] | Iterable[str]) -> Names:
    """Names fixed in the code, with how each reads and a note where there is one."""
    pairs = names.items() if isinstance(names, Mapping) else ((name, name) for name in names)
    found = {
        key: Option(*words) if isinstance(words, tuple) else Option(words) for key, words in pairs
    }
    return lambda: found


@by_type
def entries(of: type) -> Mapping[str, Entry]:
    """The fields a dataclass declares, by their key in a file, in order; `key` is filled in where
    it was not.
    """
    found = {}
    for item in dataclasses.fields(of):
        if "entry" in item.metadata:
            declared: Entry = item.metadata["entry"]
            key = declared.key or item.name
            found[key] = dataclasses.replace(declared, key=key)
    return found


@by_type
def attributes(of: type) -> Mapping[str, str]:
    """The dataclass's own name of each field, by its key in a file."""
    return {
        (f.metadata["entry"].key or f.name): f.name
        for f in dataclasses.fields(of)
        if "entry" in f.metadata
    }


@by_type
def defaults(of: type) -> Mapping[str, Any]:
    """What each field of a dataclass is where nothing is told, by its key in a file; those that
    must be told are left away.
    """
    return {
        (f.metadata["entry"].key or f.name): f.default
        for f in dataclasses.fields(of)
        if "entry" in f.metadata and f.default is not MISSING
    }
