"""Compares results with the approved ones of a file, by figure and by name."""

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

from wisearc.core.quantities import Quantity
from wisearc.core.reasons import Sentence

FOLDER = Path(__file__).resolve().parent
FIGURE = re.compile(r"\d+(?:\.\d+)?")
MOST_SHOWN = 30
# path of a figure → the figure, a name, or the figures of a sentence
Flat = dict[str, Any]


def flatten(value: Any) -> Flat:
    """Every figure and name of a result by its path. Of a sentence, its figures alone."""
    flat: Flat = {}
    _fill(flat, value, "")
    return flat


def _fill(flat: Flat, value: Any, path: str) -> None:
    """Add a part of a result."""
    if isinstance(value, float):
        flat[path] = float(f"{value:.7g}")
    elif isinstance(value, str):
        flat[path] = " ".join(FIGURE.findall(value)) if " " in value else value
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
    """A part of a result as plain data."""
    if isinstance(value, Sentence | Quantity):
        return f"{value.text()} {value.text('in')}"
    if isinstance(value, np.ndarray | np.generic):
        return value.tolist()
    if isinstance(value, set | frozenset):
        return sorted(value)
    return {one.name: getattr(value, one.name) for one in fields(value)}


def is_same(old: Any, new: Any) -> bool:
    """Whether two figures or names are the same, but for the last digits of a figure."""
    numbers = isinstance(old, int | float) and isinstance(new, int | float)
    return math.isclose(old, new, rel_tol=1e-6, abs_tol=1e-9) if numbers else bool(old == new)


def changes(old: Flat, new: Flat) -> Iterator[str]:
    """What differs, a line each."""
    for path in sorted(old.keys() | new.keys()):
        if path not in new or path not in old or not is_same(old[path], new[path]):
            yield f"  {path}: {old.get(path, 'absent')} → {new.get(path, 'absent')}"


class ApprovedCase(unittest.TestCase):
    """Cases of one kind and their approved results, in the file NAME.json.xz."""

    name: ClassVar[str]

    @classmethod
    def result(cls, case: Any) -> Any:
        """What the product makes of a case, given as plain data."""
        raise NotImplementedError

    @classmethod
    def flat(cls, case: Any) -> Flat:
        """The figures and names of a case, as a file holds them."""
        return flatten(cls.result(case))

    @classmethod
    def read(cls) -> list[tuple[Any, Flat]]:
        """The cases and their approved results."""
        pairs = json.loads(lzma.decompress((FOLDER / f"{cls.name}.json.xz").read_bytes()))
        return [(case, flat) for case, flat in pairs]

    @classmethod
    def compare(cls) -> Iterator[tuple[Any, Flat, list[str]]]:
        """Each case, what it gives now, and what differs from what was approved, a line each."""
        for case, old in cls.read():
            new = cls.flat(case)
            found = [] if old == new else [*changes(old, new)]
            yield case, new, [f"{cls.name}: {json.dumps(case)}", *found] if found else []

    @classmethod
    def approve(cls) -> list[str]:
        """Approve what the cases give now. Returns what changed, a line each."""
        compared = [*cls.compare()]
        cls.write([(case, new) for case, new, _ in compared])
        return [line for *_, lines in compared for line in lines]

    @classmethod
    def write(cls, pairs: list[tuple[Any, Flat]]) -> None:
        """Write the cases and their approved results."""
        text = json.dumps(pairs, ensure_ascii=False, separators=(",", ":")).encode()
        (FOLDER / f"{cls.name}.json.xz").write_bytes(lzma.compress(text, preset=9))

    def check(self) -> None:
        """Fail where a case gives something else than what was approved."""
        lines = [line for *_, found in self.compare() for line in found]
        if lines:
            shown = "\n".join(lines[:MOST_SHOWN])
            self.fail(f"{len(lines)} lines changed; python -m tests.approved approves\n{shown}")
