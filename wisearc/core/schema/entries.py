"""What a field of the joint is, declared once, on the dataclass of the joint or of its member.

Checking, the joint file's schema, the link, the sentence's words and their editors are read from
it.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Iterable, Mapping
from dataclasses import MISSING, dataclass, field
from typing import Any

from ..catalogue.rows import Row
from .figures import by_type


@dataclass(frozen=True)
class Option:
    """One of the names a field can take: how it reads, and a note."""

    label: str
    note: str = ""


Names = Callable[[], Mapping[str, Option]]


@dataclass(frozen=True)
class Entry:
    """A field: its kind and limits, and where people meet it.

    kind: name (one of `names`), row (a name whose row of the catalogue is kept), length (text in
    any unit, or NAME_mm), number, text. word: the word of the sentence whose editor holds it, ""
    for none. answer: the answer of the plan that it sets by hand, "" for none. usual: where it is
    left out of a file or link ("" : nothing). gauged: whether people also tell it by a gauge
    number.
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
    required: bool = False
    gauged: bool = False

    def allowed(self) -> Mapping[str, Option]:
        """The names it can take, in order."""
        if self.rows is not None:
            return {key: Option(row.name, row.note) for key, row in self.rows().items()}
        return self.names() if self.names is not None else {}


def entry(kind: str, default: Any = MISSING, **more: Any) -> Any:
    """A dataclass field that declares a field of the joint; see `Entry`. Parameters: default, of
    the dataclass.
    """
    found = Entry(kind, **more)
    return (
        field(default=default, metadata={"entry": found})
        if default is not MISSING
        else field(metadata={"entry": found})
    )


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
