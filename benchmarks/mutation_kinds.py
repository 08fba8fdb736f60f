"""The changes that `mutants.py` makes to a file, one at a time, and what it leaves unchanged."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

EDGES = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "=="}
SIGNS = {ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!="}
LEVELS = {"Stop": "Care", "Care": "Note", "Note": "Care"}
# calls whose numbers are how a figure is kept, shown or cached, not rules of the trade
NOT_RULES = {
    "figure",
    "lru_cache",
    "plain",
    "round",
    "getattr",
    "partial",
    "linspace",
    "geomspace",
    "Entry",
    "zip",
    "cache",
    "_always",
    "range",
    "dumps",
}
# smaller numbers are tolerances of a calculation
LEAST = 1e-3
# a smaller whole number is changed by one, any other number by a tenth
COUNTS = 20


@dataclass(frozen=True)
class Mutant:
    """A change of one stretch of one line: file, line (from 1), columns, the new text, its kind."""

    path: Path
    line: int
    start: int
    end: int
    text: str
    kind: str

    def apply(self, source: str) -> str:
        """The source with the change in it."""
        lines = source.splitlines(keepends=True)
        row = lines[self.line - 1].encode()
        lines[self.line - 1] = (row[: self.start] + self.text.encode() + row[self.end :]).decode()
        return "".join(lines)


def mutants(path: Path) -> Iterator[Mutant]:
    """Every mutant of a file."""
    source = path.read_text(encoding="utf-8")
    tree = ast.parse(source)
    rows = source.splitlines()
    idle = {
        id(n)
        for call in ast.walk(tree)
        if isinstance(call, ast.Call) and _name(call) in NOT_RULES
        for n in ast.walk(call)
        if n is not call
    }
    idle |= {id(n.slice) for n in ast.walk(tree) if isinstance(n, ast.Subscript)}
    idle |= {
        id(n)
        for f in ast.walk(tree)
        if isinstance(f, ast.FormattedValue) and f.format_spec
        for n in ast.walk(f.format_spec)
    }
    for node in ast.walk(tree):
        if id(node) in idle or not hasattr(node, "lineno"):
            continue
        if (
            isinstance(node, ast.Constant)
            and isinstance(node.value, int | float)
            and not isinstance(node.value, bool)
        ):
            if abs(node.value) >= LEAST:
                new = node.value * 1.1
                if isinstance(node.value, int):
                    new = node.value + 1 if abs(node.value) < COUNTS else round(new)
                yield Mutant(
                    path,
                    node.lineno,
                    node.col_offset,
                    node.end_col_offset or 0,
                    repr(new),
                    "number",
                )
        elif isinstance(node, ast.Compare) and len(node.ops) == 1 and _moves(node):
            right = node.comparators[0]
            if right.lineno == right.end_lineno:
                old = (
                    rows[right.lineno - 1]
                    .encode()[right.col_offset : right.end_col_offset]
                    .decode()
                )
                yield Mutant(
                    path,
                    right.lineno,
                    right.col_offset,
                    right.end_col_offset or 0,
                    f"1.1 * ({old})",
                    "threshold",
                )
        elif isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in EDGES:
            yield from _between(
                path,
                rows,
                node.left,
                node.comparators[0],
                SIGNS[type(node.ops[0])],
                EDGES[type(node.ops[0])],
                "edge",
            )
        elif isinstance(node, ast.BoolOp):
            old, new_word = ("and", "or") if isinstance(node.op, ast.And) else ("or", "and")
            yield from _between(
                path, rows, node.values[0], node.values[1], old, new_word, "and, or"
            )
        elif (
            isinstance(node, ast.Raise)
            and node.exc
            and not node.cause
            and node.lineno == node.end_lineno
        ):
            yield Mutant(
                path, node.lineno, node.col_offset, node.end_col_offset or 0, "pass", "refusal"
            )
        elif (
            isinstance(node, ast.Call)
            and isinstance(node.func, ast.Name)
            and node.func.id in LEVELS
        ):
            yield Mutant(
                path,
                node.lineno,
                node.func.col_offset,
                node.func.end_col_offset or 0,
                LEVELS[node.func.id],
                "level",
            )


def _moves(node: ast.Compare) -> bool:
    """Whether a comparison is with something reckoned or declared: its equality is not met, so it
    is moved by a tenth.
    """
    return isinstance(node.ops[0], ast.Lt | ast.LtE | ast.Gt | ast.GtE) and not isinstance(
        node.comparators[0], ast.Constant
    )


def _between(
    path: Path, rows: list[str], left: ast.expr, right: ast.expr, old: str, new: str, kind: str
) -> Iterator[Mutant]:
    """The operator between two expressions on one line."""
    if left.end_lineno != right.lineno:
        return
    row = rows[right.lineno - 1].encode()
    gap = row[left.end_col_offset : right.col_offset].decode()
    if gap.count(old) == 1:
        at = (left.end_col_offset or 0) + len(gap[: gap.index(old)].encode())
        yield Mutant(path, right.lineno, at, at + len(old), new, kind)


def _name(call: ast.Call) -> str:
    return (
        call.func.id
        if isinstance(call.func, ast.Name)
        else call.func.attr
        if isinstance(call.func, ast.Attribute)
        else ""
    )
