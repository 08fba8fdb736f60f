"""Plants wrong rules in the core and the services and counts how many the tests catch; by hand.

.venv/bin/python benchmarks/mutants.py --sample 300 --seed 1

Each mutant changes one thing of one file of `wisearc/core` or `wisearc/services`: a number by a
tenth (a whole one by one), a comparison with a number at its edge, one with a figure by a tenth,
"and" for "or", a caution's level, or a refusal left out. --only takes any part of a path instead,
such as `web/gate`.

The tests are discovered: each is run once to see which lines it runs, and a mutant is put to the
classes that run its line, the nearest and quickest first, until one fails. What is inside a
function, or the value of a module's name, is changed in a fork of a process that has read
everything; what else a module says as it is read is changed in a copy of the tree. What no test
notices within SECONDS is listed as let through. A mutant that cannot be told from the rule (a digit
of a figure's rounding, say) is left out by kind, not by hand.
"""

from __future__ import annotations

import argparse
import ast
import gc
import importlib
import inspect
import multiprocessing
import os
import pickle
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import types
import unittest
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import chain
from pathlib import Path

import coverage

ROOT = Path(__file__).resolve().parent.parent
# the browser's tests are left out: a rule is to be caught without a browser
LEFT_OUT = ("browser",)
LAYERS = ("wisearc/core/", "wisearc/services/")
# how long the tests may look for one mutant before it counts as let through
SECONDS = 60
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
}
# a smaller number says how near a sum comes, not how much of anything there is
LEAST = 1e-3
# what these look for is held against a reference that shares nothing with them
# (`tests/outside/test_job_orders.py`); their figures say how hard they look
SEARCHES = ("jobs/beam.py", "jobs/exact.py", "jobs/search.py")


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


# lines by file, relative to the project
Lines = dict[str, set[int]]


@dataclass(frozen=True)
class TestClass:
    """A class of tests: its name, what it took to run, in seconds, its tests by the lines that each
    runs, by file; "" holds what the class itself runs before them.
    """

    name: str
    seconds: float
    lines: dict[str, Lines]

    def able(self, wanted: Lines) -> list[str]:
        """Its tests that run any of these lines; all of them where the class itself does."""
        told = [
            test
            for test, lines in self.lines.items()
            if any(span & lines.get(file, set()) for file, span in wanted.items())
        ]
        return [test for test in self.lines if test] if "" in told else told


class _Telling(unittest.TestResult):
    """Tells coverage which test runs."""

    def __init__(self, cover: coverage.Coverage) -> None:
        super().__init__()
        self.cover = cover

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        self.cover.switch_context(test.id())
        super().startTest(test)


def discover(names: Sequence[str]) -> list[TestClass]:
    """Run test classes to see which lines they run. One that fails as it stands is said and
    catches nothing.
    """
    # heavy tests are told too
    importlib.import_module("tests.untraced").Untraced.run = unittest.TestCase.run
    found = []
    for name in names:
        cover = coverage.Coverage(data_file=None, source=[str(ROOT / "wisearc")], config_file=False)
        suite = unittest.defaultTestLoader.loadTestsFromName(name)
        tests = [test.id() for test in suite if isinstance(test, unittest.TestCase)]
        result, began = _Telling(cover), time.monotonic()
        cover.start()
        suite.run(result)
        cover.stop()
        if not result.wasSuccessful():
            told = [*result.errors, *result.failures]
            print(f"{name} does not pass as it stands:\n{told[0][1][-600:]}", flush=True)
            continue
        data, lines = cover.get_data(), {}
        for test in ("", *tests):
            data.set_query_context(test)
            ran = {str(Path(f).relative_to(ROOT)): data.lines(f) for f in data.measured_files()}
            lines[test] = {file: set(rows) for file, rows in ran.items() if rows}
        found.append(TestClass(name, time.monotonic() - began, lines))
    return found


def survives(mutant: Mutant, classes: Sequence[TestClass]) -> bool:
    """Whether no test notices it within SECONDS. Changes this process: for a fork."""
    source = mutant.path.read_text(encoding="utf-8")
    file = str(mutant.path.relative_to(ROOT))
    ends = time.monotonic() + SECONDS
    lines = _plant(mutant, source)
    if lines is None:
        return _survives_reading(mutant, source, classes)
    signal.signal(signal.SIGALRM, _too_long)
    for one in sorted(classes, key=partial(_first, file)):
        tests = one.able(lines)
        if not tests:
            continue
        if time.monotonic() > ends:
            return True
        signal.alarm(int(20 + 5 * one.seconds))
        result = unittest.TestResult()
        result.failfast = True
        unittest.defaultTestLoader.loadTestsFromNames(tests).run(result)
        signal.alarm(0)
        if not result.wasSuccessful():
            return False
    return True


def _first(file: str, one: TestClass) -> tuple[int, float]:
    """In which order classes look at a mutant: those that stand nearest to its file, the quickest
    first.
    """
    here, there = Path(file).parent.parts[1:], one.name.split(".")[1:-2]
    alike = next((i for i, (a, b) in enumerate(zip(here, there, strict=False)) if a != b), 9)
    return -alike, one.seconds


def _too_long(*_: object) -> None:
    """A test that no longer ends has noticed."""
    raise TimeoutError


def _plant(mutant: Mutant, source: str) -> Lines | None:
    """Put a mutant into what is loaded: into the functions that hold it, or where it is the value
    of a module's name, everywhere that name was taken to.

    Returns the lines that run it; None where only reading the module anew would.
    """
    path, text = str(mutant.path), mutant.apply(source)
    old, new = (dict(_codes(compile(one, path, "exec"))) for one in (source, text))
    changed = {key for key, code in new.items() if code != old[key]}
    apart = {
        key for key in changed if not _is_function(old[key]) and _own(old[key]) != _own(new[key])
    }
    if apart == {(1, "<module>")}:
        return _plant_names(mutant, source, text)
    if apart:
        return None
    for function in _functions():
        code = function.__code__
        key = (code.co_firstlineno, code.co_qualname)
        if code.co_filename == path and key in changed:
            function.__code__ = new[key]
    return {str(mutant.path.relative_to(ROOT)): set(_statement(source, mutant.line))}


def _plant_names(mutant: Mutant, source: str, text: str) -> Lines | None:
    """Give the names that a statement of a module makes their new values, wherever they were taken
    to, and tell the lines of the functions that ask for them.
    """
    span = _statement(source, mutant.line)
    node = next(n for n in ast.parse(source).body if span[0] in range(n.lineno, n.end_lineno + 1))
    if not isinstance(node, ast.Assign | ast.AnnAssign):
        return None
    names = {
        n.id for n in ast.walk(node) if isinstance(n, ast.Name) and isinstance(n.ctx, ast.Store)
    }
    module = ".".join(mutant.path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")
    own = sys.modules[module]
    fresh = types.ModuleType(module)
    fresh.__dict__.update(__file__=str(mutant.path), __package__=own.__package__)
    sys.modules[module] = fresh
    try:
        exec(compile(text, str(mutant.path), "exec"), fresh.__dict__)
    finally:
        sys.modules[module] = own
    taken = defaultdict(set)
    for name in names:
        was, value = vars(own)[name], vars(fresh)[name]
        for other in list(sys.modules.values()):
            if (
                getattr(other, "__name__", "").startswith("wisearc")
                and vars(other).get(name) is was
            ):
                vars(other)[name] = value
                taken[getattr(other, "__file__", "")].add(name)
    lines: Lines = defaultdict(set)
    for function in _functions():
        code = function.__code__
        if taken.get(code.co_filename, set()) & _asked(code):
            rows = {row for _, _, row in code.co_lines() if row}
            lines[str(Path(code.co_filename).relative_to(ROOT))] |= rows - {code.co_firstlineno}
    return lines or None


def _asked(code: types.CodeType) -> set[str]:
    """The names that a function asks its module for, those within it too."""
    return {name for _, inner in _codes(code) for name in inner.co_names}


def _functions() -> list[types.FunctionType]:
    return [o for o in gc.get_objects() if isinstance(o, types.FunctionType)]


def _codes(code: types.CodeType) -> Iterator[tuple[tuple[int, str], types.CodeType]]:
    """Every code object of a module by its first line and name."""
    yield (code.co_firstlineno, code.co_qualname), code
    for inner in code.co_consts:
        if isinstance(inner, types.CodeType):
            yield from _codes(inner)


def _is_function(code: types.CodeType) -> bool:
    return bool(code.co_flags & inspect.CO_NEWLOCALS)


def _own(code: types.CodeType) -> tuple[object, ...]:
    """What a module does as it is read, without what its functions do when called."""
    constants = [c for c in code.co_consts if not isinstance(c, types.CodeType)]
    return code.co_code, code.co_names, tuple(map(repr, constants))


def _survives_reading(mutant: Mutant, source: str, classes: Sequence[TestClass]) -> bool:
    """Whether no test notices what a module says as it is read: in a copy of the tree, with the
    tests of that file first.
    """
    file = mutant.path.relative_to(ROOT)
    runs = {c.name for c in classes if any(str(file) in lines for lines in c.lines.values())}
    ordered = sorted(classes, key=lambda c: (c.name not in runs, *_first(str(file), c)))
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / "tree"
        left = shutil.ignore_patterns(".venv", ".git", "data", "__pycache__")
        shutil.copytree(ROOT, tree, ignore=left)
        (tree / ".venv").symlink_to(ROOT / ".venv")
        (tree / file).write_text(mutant.apply(source), encoding="utf-8")
        try:
            done = subprocess.run(
                [
                    sys.executable,
                    "-W",
                    "ignore",
                    "-m",
                    "unittest",
                    "-f",
                    *(c.name for c in ordered),
                ],
                cwd=tree,
                env={**os.environ, "PYTHONPATH": str(tree), "PYTHONDONTWRITEBYTECODE": "1"},
                capture_output=True,
                timeout=SECONDS,
                check=False,
            )
        except subprocess.TimeoutExpired:
            return True
        return not done.returncode


def _statement(source: str, line: int) -> range:
    """The lines of the statement that a line is of, the innermost."""
    spans = (
        range(n.lineno, (n.end_lineno or n.lineno) + 1)
        for n in ast.walk(ast.parse(source))
        if isinstance(n, ast.stmt)
    )
    return min((s for s in spans if line in s), key=len)


def _class_names() -> list[list[str]]:
    """The names of the test classes, by module; reads every one of them."""
    found = defaultdict(list)
    for path in sorted((ROOT / "tests").rglob("test_*.py")):
        relative = path.relative_to(ROOT).with_suffix("").parts
        if relative[1] in LEFT_OUT:
            continue
        module = ".".join(relative)
        for suite in unittest.defaultTestLoader.loadTestsFromName(module):
            for test in suite if isinstance(suite, unittest.TestSuite) else ():
                name = f"{module}.{type(test).__qualname__}"
                if name not in found[module]:
                    found[module].append(name)
    return list(found.values())


def _shown(mutant: Mutant) -> str:
    row = mutant.path.read_text(encoding="utf-8").splitlines()[mutant.line - 1].encode()
    old, place = row[mutant.start : mutant.end].decode(), mutant.path.relative_to(ROOT)
    change = f"{mutant.kind}: {old} → {mutant.text}"
    return f"  {place}:{mutant.line} {change}   {row.decode().strip()[:110]}"


# what was discovered, for the forks
CLASSES: list[TestClass] = []


def _judged(mutant: Mutant) -> tuple[Mutant, bool]:
    return mutant, survives(mutant, CLASSES)


def _known(path: Path | None) -> list[TestClass]:
    """What was discovered before, of the code as it is; this command's own file."""
    if path is None or not path.exists():
        return []
    found: list[TestClass] = pickle.loads(path.read_bytes())
    return found


def main() -> None:
    """Sample, run, tell."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--sample", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--only", default="", help="part of a path")
    parser.add_argument(
        "--lines", type=Path, help="where the lines that each test runs are kept, or put"
    )
    args = parser.parse_args()
    sys.path.insert(0, str(ROOT))
    os.chdir(ROOT)
    wanted = (args.only,) if args.only else LAYERS
    files = [
        path
        for path in sorted((ROOT / "wisearc").rglob("*.py"))
        if any(part in str(path) for part in wanted)
        and path.parent.name != "catalogue"
        and not str(path).endswith(SEARCHES)
    ]
    every = [m for path in files for m in mutants(path)]
    chosen = random.Random(args.seed).sample(every, min(args.sample, len(every)))
    names, fork = _class_names(), multiprocessing.get_context("fork")
    with fork.Pool(args.jobs, maxtasksperchild=1) as pool:
        CLASSES.extend(_known(args.lines) or chain(*pool.imap_unordered(discover, names)))
    if args.lines and not args.lines.exists():
        args.lines.write_bytes(pickle.dumps(CLASSES))
    total, left = Counter[str](), Counter[str]()
    with fork.Pool(args.jobs, maxtasksperchild=1) as pool:
        for mutant, alive in pool.imap_unordered(_judged, chosen):
            total[mutant.kind] += 1
            if alive:
                left[mutant.kind] += 1
                print(f"{total.total():4d}{_shown(mutant)}", flush=True)
    for kind, count in sorted(total.items()):
        print(f"{kind}: {count - left[kind]} of {count} killed")
    print(
        f"all: {total.total() - left.total()} of {total.total()} killed,"
        f" {100 * (1 - left.total() / total.total()):.0f} %, of {len(every)} there are"
    )


if __name__ == "__main__":
    main()
