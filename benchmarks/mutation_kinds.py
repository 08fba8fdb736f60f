"""The changes that `mutants.py` makes to a file, one at a time, and what it leaves unchanged."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

EDGES = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "=="}
SIGNS = {ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!="}
LEVELS = {"Stop": "Care", "Care": "Note", "Note": "Care"}
# Calls whose numbers belong to storage, display or caches, not to rules of the trade.
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
# Smaller numbers are tolerances of a calculation.
MIN_TIME_S = 1e-3
# A smaller integer changes by one, any other number by a tenth.
COUNTS = 20


@dataclass(frozen=True)
class Mutant:
    """A change of one stretch of one line.

    Args:
        path: The file.
        line: Line, from 1.
        start: First column, in bytes.
        end: Column after the last, in bytes.
        text: The new text.
        kind: The kind of change.
    """

    path: Path
    line: int
    start: int
    end: int
    text: str
    kind: str

    def apply(self, source: str) -> str:
        """Return the source with the change."""
        lines = source.splitlines(keepends=True)
        row = lines[self.line - 1].encode()
        lines[self.line - 1] = (row[: self.start] + self.text.encode() + row[self.end :]).decode()
        return "".join(lines)


def mutants(path: Path) -> Iterator[Mutant]:
    """Iterate over all mutants of a file."""
    source = path.read_text(encoding="utf-8")
    tree, rows = ast.parse(source), source.splitlines()
    excluded = {id(node) for node in _iterate_excluded(tree)}
    for node in ast.walk(tree):
        if id(node) in excluded:
            continue
        match node:
            case ast.Constant(value=int() | float()) if not isinstance(node.value, bool):
                if abs(node.value) >= MIN_TIME_S:
                    yield _replace(path, node, repr(_change_number(node.value)), "number")
            case ast.Compare(comparators=[right]) if _is_calculated(node):
                if right.lineno == right.end_lineno:
                    old = ast.get_source_segment(source, right)
                    yield _replace(path, right, f"1.1 * ({old})", "threshold")
            case ast.Compare(left=left, ops=[sign], comparators=[right]) if type(sign) in EDGES:
                old, new = SIGNS[type(sign)], EDGES[type(sign)]
                yield from _change_between(path, rows, (left, right), (old, new), "edge")
            case ast.BoolOp(values=[left, right, *_]):
                pair = ("and", "or") if isinstance(node.op, ast.And) else ("or", "and")
                yield from _change_between(path, rows, (left, right), pair, "and, or")
            case ast.Raise(exc=ast.expr(), cause=None) if node.lineno == node.end_lineno:
                yield _replace(path, node, "pass", "refusal")
            case ast.Call(func=ast.Name(id=name) as called) if name in LEVELS:
                yield _replace(path, called, LEVELS[name], "level")


def _iterate_excluded(tree: ast.Module) -> Iterator[ast.AST]:
    """Iterate over the nodes that stay unchanged."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and _get_name(node) in NOT_RULES:
            yield from (inner for inner in ast.walk(node) if inner is not node)
        elif isinstance(node, ast.Subscript):
            yield from ast.walk(node.slice) if isinstance(node.slice, ast.Slice) else [node.slice]
        elif isinstance(node, ast.FormattedValue) and node.format_spec:
            yield from ast.walk(node.format_spec)


def _change_number(value: float) -> float:
    """Change a small whole number by one, any other number by a tenth."""
    if isinstance(value, int):
        return value + 1 if abs(value) < COUNTS else round(1.1 * value)
    return 1.1 * value


def _is_calculated(node: ast.Compare) -> bool:
    """Return whether a comparison is with a calculated or declared value.

    Such a value is hardly ever equal.
    """
    compared = ast.Lt | ast.LtE | ast.Gt | ast.GtE
    return isinstance(node.ops[0], compared) and not isinstance(node.comparators[0], ast.Constant)


def _replace(path: Path, node: ast.expr | ast.stmt, text: str, kind: str) -> Mutant:
    """Make the mutant that replaces a node on one line."""
    return Mutant(path, node.lineno, node.col_offset, node.end_col_offset or 0, text, kind)


def _change_between(
    path: Path,
    rows: list[str],
    sides: tuple[ast.expr, ast.expr],
    change: tuple[str, str],
    kind: str,
) -> Iterator[Mutant]:
    """Make the mutant of the operator between two expressions, if they share a line.

    Args:
        path: The file.
        rows: Lines of the file.
        sides: The expressions.
        change: The old and the new operator.
        kind: The kind of change.
    """
    (left, right), (old, new) = sides, change
    if left.end_lineno != right.lineno:
        return
    row = rows[right.lineno - 1].encode()
    gap = row[left.end_col_offset : right.col_offset].decode()
    if gap.count(old) == 1:
        start = (left.end_col_offset or 0) + len(gap[: gap.index(old)].encode())
        yield Mutant(path, right.lineno, start, start + len(old), new, kind)


def _get_name(call: ast.Call) -> str:
    """Return the name of the called function."""
    match call.func:
        case ast.Name(id=name) | ast.Attribute(attr=name):
            return name
    return ""
