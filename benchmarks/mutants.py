"""Plants wrong rules in the core and the services and counts how many the tests catch; by hand.

.venv/bin/python benchmarks/mutants.py --sample 300 --seed 1

Each mutant changes one thing of one file of `wisearc/core` or `wisearc/services`: a number by a
tenth (a whole one by one), a comparison with a number at its edge, one with a figure by a tenth,
"and" for "or", a caution's level, or a refusal left out. --only takes any part of a path instead,
such as `web/gate`.

The test modules are discovered: each is run once to see which lines it runs, and a mutant is put to
the modules that run its line, the quickest first, until one fails. They run in a copy of the tree;
what no test notices is listed. A mutant that cannot be told from the rule (a digit of a figure's
rounding, say) is left out by kind, not by hand.
"""

from __future__ import annotations

import argparse
import ast
import os
import pickle
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

import coverage

ROOT = Path(__file__).resolve().parent.parent
# the browser's tests are left out: a rule is to be caught without a browser
LEFT_OUT = ("browser",)
LAYERS = ("wisearc/core/", "wisearc/services/")
SECONDS = 150
EDGES = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "=="}
SIGNS = {ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!="}
LEVELS = {"stop": "caution", "caution": "note", "note": "caution"}
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
}


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
            if abs(node.value) >= 1e-6:
                new = node.value + 1 if isinstance(node.value, int) else node.value * 1.1
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


@dataclass(frozen=True)
class TestModule:
    """A test module, what it took to run, in seconds, and the lines that it runs, by file."""

    name: str
    seconds: float
    lines: dict[str, set[int]]


def _run(tree: Path, *command: str) -> subprocess.CompletedProcess[str]:
    environment = {
        **os.environ,
        "PYTHONPATH": str(tree),
        "PYTHONDONTWRITEBYTECODE": "1",
        "OPENBLAS_NUM_THREADS": "1",
        "COVERAGE_FILE": str(tree / ".coverage"),
    }
    return subprocess.run(
        [sys.executable, "-W", "ignore", "-m", *command],
        cwd=tree,
        env=environment,
        capture_output=True,
        text=True,
        timeout=SECONDS,
        check=False,
    )


def discover(tree: Path, name: str) -> TestModule:
    """Run a test module to see which lines it runs; one that fails as it stands, twice, is said
    and kills nothing.
    """
    told = ("coverage", "run", "--rcfile=", "--source=wisearc", "-m", "unittest", "-f", name)
    for _ in range(2):
        began = time.monotonic()
        done = _run(tree, *told)
        if not done.returncode:
            break
    else:
        print(f"{name} does not pass as it stands:\n{done.stderr[-600:]}", flush=True)
        return TestModule(name, 0.0, {})
    taken = time.monotonic() - began
    data = coverage.CoverageData(str(tree / ".coverage"))
    data.read()
    lines = {
        str(Path(file).relative_to(tree)): set(data.lines(file) or ())
        for file in data.measured_files()
    }
    return TestModule(name, taken, lines)


def survives(mutant: Mutant, tree: Path, tests: Sequence[TestModule]) -> bool:
    """Whether no test notices it. Parameters: tree, a copy of the project; tests, all there are."""
    relative = str(mutant.path.relative_to(ROOT))
    place = tree / relative
    source = place.read_text(encoding="utf-8")
    place.write_text(mutant.apply(source), encoding="utf-8")
    span = set(_statement(source, mutant.line))
    able = [t for t in tests if span & t.lines.get(relative, set())]
    try:
        return not any(
            _run(tree, "unittest", "-f", t.name).returncode
            for t in sorted(able, key=lambda t: t.seconds)
        )
    except subprocess.TimeoutExpired:
        return False
    finally:
        place.write_text(source, encoding="utf-8")


def _statement(source: str, line: int) -> range:
    """The lines of the statement that a line is of, the innermost."""
    spans = (
        range(n.lineno, (n.end_lineno or n.lineno) + 1)
        for n in ast.walk(ast.parse(source))
        if isinstance(n, ast.stmt)
    )
    return min((s for s in spans if line in s), key=len)


def _modules() -> list[str]:
    found = (p.relative_to(ROOT) for p in sorted((ROOT / "tests").rglob("test_*.py")))
    return [".".join(p.with_suffix("").parts) for p in found if p.parts[1] not in LEFT_OUT]


def _shown(mutant: Mutant) -> str:
    row = mutant.path.read_text(encoding="utf-8").splitlines()[mutant.line - 1].encode()
    old, place = row[mutant.start : mutant.end].decode(), mutant.path.relative_to(ROOT)
    change = f"{mutant.kind}: {old} → {mutant.text}"
    return f"  {place}:{mutant.line} {change}   {row.decode().strip()[:110]}"


def _known(path: Path | None) -> list[TestModule]:
    """What was discovered before, of the code as it is; this command's own file."""
    if path is None or not path.exists():
        return []
    found: list[TestModule] = pickle.loads(path.read_bytes())
    return found


def main() -> None:
    """Sample, run, tell."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--sample", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--only", default="", help="part of a path")
    parser.add_argument(
        "--lines", type=Path, help="where the lines that each test module runs are kept, or put"
    )
    args = parser.parse_args()
    wanted = (args.only,) if args.only else LAYERS
    files = [
        path
        for path in sorted((ROOT / "wisearc").rglob("*.py"))
        if any(part in str(path) for part in wanted) and path.parent.name != "catalogue"
    ]
    every = [m for path in files for m in mutants(path)]
    chosen = random.Random(args.seed).sample(every, min(args.sample, len(every)))
    trees: Queue[Path] = Queue()
    with tempfile.TemporaryDirectory() as folder:
        for i in range(args.jobs):
            tree = Path(folder) / str(i)
            shutil.copytree(
                ROOT,
                tree,
                ignore=shutil.ignore_patterns(".venv", ".git", "data", "__pycache__"),
            )
            (tree / ".venv").symlink_to(ROOT / ".venv")
            trees.put(tree)

        def seen_by(name: str) -> TestModule:
            tree = trees.get()
            try:
                return discover(tree, name)
            finally:
                trees.put(tree)

        def judge(mutant: Mutant) -> tuple[Mutant, bool]:
            tree = trees.get()
            try:
                alive = survives(mutant, tree, tests)
                if alive:
                    print(_shown(mutant), flush=True)
                return mutant, alive
            finally:
                trees.put(tree)

        with ThreadPoolExecutor(args.jobs) as pool:
            tests = _known(args.lines) or list(pool.map(seen_by, _modules()))
            if args.lines and not args.lines.exists():
                args.lines.write_bytes(pickle.dumps(tests))
            results = list(pool.map(judge, chosen))
    total, left = (
        Counter(m.kind for m, _ in results),
        Counter(m.kind for m, alive in results if alive),
    )
    for kind, count in sorted(total.items()):
        print(f"{kind}: {count - left[kind]} of {count} killed")
    print(
        f"all: {len(results) - left.total()} of {len(results)} killed,"
        f" {100 * (1 - left.total() / len(results)):.0f} %, of {len(every)} there are"
    )


if __name__ == "__main__":
    main()
