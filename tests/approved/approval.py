"""Compares results with the approved results in a file."""

from __future__ import annotations

import json
import lzma
import math
import re
import unittest
from collections.abc import Iterator, Mapping
from dataclasses import fields
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
from msgspec import Struct

from wisearc.core.quantities import Quantity
from wisearc.core.reasons import Sentence

FOLDER = Path(__file__).resolve().parent
NUMBER = re.compile(r"\d+(?:\.\d+)?")
MAX_LINES = 30
# path → number, name, or the numbers in a sentence
Flat = dict[str, Any]


def flatten(value: Any) -> Flat:
    """Return the numbers and names of a result by path. Of a sentence, only its numbers."""
    flat: Flat = {}
    _fill(flat, value, "")
    return flat


def _fill(flat: Flat, value: Any, path: str) -> None:
    """Add a part of a result to `flat`."""
    if isinstance(value, float):
        flat[path] = float(f"{value:.7g}")
    elif isinstance(value, str):
        flat[path] = " ".join(NUMBER.findall(value)) if " " in value else value
    elif value is None or isinstance(value, int):
        flat[path] = value
    elif isinstance(value, Mapping):
        for key, inner in value.items():
            _fill(flat, inner, f"{path}.{key}")
    elif isinstance(value, list | tuple):
        flat[f"{path}.count"] = len(value)
        for i, inner in enumerate(value):
            _fill(flat, inner, f"{path}.{i}")
    else:
        _fill(flat, _to_plain(value), path)


def _to_plain(value: Any) -> Any:
    """Convert a part of a result to plain data."""
    if isinstance(value, Sentence | Quantity):
        return f"{value.text()} {value.text('in')}"
    if isinstance(value, np.ndarray | np.generic):
        return value.tolist()
    if isinstance(value, set | frozenset):
        return sorted(value)
    names = (
        value.__struct_fields__
        if isinstance(value, Struct)
        else [one.name for one in fields(value)]
    )
    return {name: getattr(value, name) for name in names}


def is_same(old: Any, new: Any) -> bool:
    """Whether two values are equal, apart from the last digits of a number."""
    numbers = isinstance(old, int | float) and isinstance(new, int | float)
    return math.isclose(old, new, rel_tol=1e-6, abs_tol=1e-9) if numbers else bool(old == new)


def list_changes(old: Flat, new: Flat) -> Iterator[str]:
    """Iterate over the differences, one line each."""
    for path in sorted(old.keys() | new.keys()):
        if path not in new or path not in old or not is_same(old[path], new[path]):
            yield f"  {path}: {old.get(path, 'absent')} → {new.get(path, 'absent')}"


class ApprovedCase(unittest.TestCase):
    """Cases of one kind, with their approved results in the file NAME.json.xz."""

    name: ClassVar[str]

    @classmethod
    def calculate(cls, case: Any) -> Any:
        """Calculate the result of a case, which is plain data."""
        raise NotImplementedError

    @classmethod
    def calculate_flat(cls, case: Any) -> Flat:
        """Calculate the result of a case as in the file."""
        return flatten(cls.calculate(case))

    @classmethod
    def read(cls) -> list[tuple[Any, Flat]]:
        """Read the cases and their approved results."""
        pairs = json.loads(lzma.decompress((FOLDER / f"{cls.name}.json.xz").read_bytes()))
        return [(case, flat) for case, flat in pairs]

    @classmethod
    def compare(cls) -> Iterator[tuple[Any, Flat, list[str]]]:
        """Iterate over cases, current results and the lines of their differences."""
        for case, old in cls.read():
            new = cls.calculate_flat(case)
            found = [] if old == new else [*list_changes(old, new)]
            yield case, new, [f"{cls.name}: {json.dumps(case)}", *found] if found else []

    @classmethod
    def approve(cls) -> list[str]:
        """Approve the current results. Returns the differences, one line each."""
        compared = [*cls.compare()]
        cls.write([(case, new) for case, new, _ in compared])
        return [line for *_, lines in compared for line in lines]

    @classmethod
    def write(cls, pairs: list[tuple[Any, Flat]]) -> None:
        """Write the cases and their approved results."""
        text = json.dumps(pairs, ensure_ascii=False, separators=(",", ":")).encode()
        (FOLDER / f"{cls.name}.json.xz").write_bytes(lzma.compress(text, preset=9))

    def check(self) -> None:
        """Fail if a result differs from the approved one, or if there are no cases."""
        compared = [*self.compare()]
        self.assertTrue(compared)
        lines = [line for *_, found in compared for line in found]
        if lines:
            shown = "\n".join(lines[:MAX_LINES])
            self.fail(f"{len(lines)} changes; approve them with python -m tests.approved\n{shown}")
