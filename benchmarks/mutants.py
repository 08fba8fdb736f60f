"""Count the wrong rules in the core and the services that the tests catch.

Run by hand:

    .venv/bin/python benchmarks/mutants.py --sample 300 --seed 1

`mutation_kinds.py` lists the changes. Coverage shows once which tests run which line. A forked
process then changes the loaded code (`mutation_planting.py`) and runs the tests of the changed
line, near and quick ones first, until a test fails. Changes of import-time code run in a copy of
the project. The command prints each change that no test catches.
"""

from __future__ import annotations

import argparse
import importlib
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
import unittest
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from itertools import chain
from pathlib import Path

import coverage
from mutation_kinds import Mutant, mutants
from mutation_planting import ROOT, Lines, plant

# A rule must have a test without a browser.
EXCLUDED_TESTS = ("browser",)
LAYERS = ("wisearc/core/", "wisearc/services/")
# After this time, s, only quick tests of the domain of the mutant run.
MAX_TEST_S = 60
# A shorter test class, s, is quick.
QUICK_S = 15.0
# The factor on the time of tests of other domains.
DELAY = 10.0
# `tests/outside/test_job_orders.py` compares the results of these searches with a reference; their
# figures set the effort only.
SEARCHES = ("jobs/beam.py", "jobs/exact.py", "jobs/search.py")


@dataclass(frozen=True)
class TestClass:
    """A test class and the lines that it runs.

    Args:
        name: Full name.
        seconds: Run time, s.
        lines: Lines by test; the key "" is for the set-up of the class.
    """

    name: str
    seconds: float
    lines: dict[str, Lines]

    def select_tests(self, wanted: Lines) -> list[str]:
        """Select the tests that run any of these lines; all tests if the set-up does."""
        selected = [
            test
            for test, lines in self.lines.items()
            if any(span & lines.get(file, set()) for file, span in wanted.items())
        ]
        return [test for test in self.lines if test] if "" in selected else selected


class _ContextResult(unittest.TestResult):
    """Names the running test for coverage."""

    def __init__(self, cover: coverage.Coverage) -> None:
        super().__init__()
        self.cover = cover

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802
        self.cover.switch_context(test.id())
        super().startTest(test)


def measure_lines(names: Sequence[str]) -> list[TestClass]:
    """Run test classes and measure the lines that each test runs. Skip classes that fail."""
    # These tests switch coverage off to save time.
    importlib.import_module("tests.untraced").Untraced.run = unittest.TestCase.run
    classes = []
    for name in names:
        cover = coverage.Coverage(data_file=None, source=[str(ROOT / "wisearc")], config_file=False)
        suite = unittest.defaultTestLoader.loadTestsFromName(name)
        tests = [test.id() for test in suite if isinstance(test, unittest.TestCase)]
        result, start_s = _ContextResult(cover), time.monotonic()
        cover.start()
        suite.run(result)
        cover.stop()
        if not result.wasSuccessful():
            failed = [*result.errors, *result.failures]
            print(f"{name} fails without a mutant:\n{failed[0][1][-600:]}", flush=True)
            continue
        data, lines = cover.get_data(), {}
        for test in ("", *tests):
            data.set_query_context(test)
            files = {str(Path(f).relative_to(ROOT)): data.lines(f) for f in data.measured_files()}
            lines[test] = {file: set(rows) for file, rows in files.items() if rows}
        classes.append(TestClass(name, time.monotonic() - start_s, lines))
    return classes


def survives(mutant: Mutant, classes: Sequence[TestClass]) -> bool:
    """Whether no test fails. Changes the process; call it in a fork.

    Args:
        mutant: The mutant.
        classes: All test classes.
    """
    source = mutant.path.read_text(encoding="utf-8")
    file = str(mutant.path.relative_to(ROOT))
    end_s = time.monotonic() + MAX_TEST_S
    lines = plant(mutant, source)
    if lines is None:
        return _survives_import(mutant, source, classes)
    signal.signal(signal.SIGALRM, _raise_timeout)
    selected = [(test_class, test_class.select_tests(lines)) for test_class in classes]
    for test_class, tests in sorted(selected, key=partial(_calculate_cost, file)):
        if not tests:
            continue
        near = _is_near(file, test_class) and test_class.seconds < QUICK_S
        if time.monotonic() > end_s and not near:
            continue
        # A test without an end has failed.
        signal.alarm(int(20 + 5 * test_class.seconds))
        result = unittest.TestResult()
        result.failfast = True
        unittest.defaultTestLoader.loadTestsFromNames(tests).run(result)
        signal.alarm(0)
        if not result.wasSuccessful():
            return False
    return True


def _calculate_cost(file: str, selection: tuple[TestClass, Sequence[str]]) -> float:
    """Return the priority of tests: their time, s, DELAY times longer in another domain."""
    test_class, tests = selection
    time_s = test_class.seconds * len(tests) / max(1, len(test_class.lines) - 1)
    return time_s if _is_near(file, test_class) else DELAY * time_s


def _is_near(file: str, test_class: TestClass) -> bool:
    """Return whether a test class belongs to the domain of a file, such as core/plan."""
    domain, test_domain = Path(file).parent.parts[1:3], test_class.name.split(".")[1:3]
    return list(domain) == test_domain


def _raise_timeout(*_: object) -> None:
    """Stop a test. Raises TimeoutError."""
    raise TimeoutError


def _survives_import(mutant: Mutant, source: str, classes: Sequence[TestClass]) -> bool:
    """Whether no test fails in a copy of the project, within four times MAX_TEST_S.

    Args:
        mutant: The mutant.
        source: Text of its file.
        classes: All test classes; the quick ones come first.
    """
    file = mutant.path.relative_to(ROOT)
    ordered = sorted(classes, key=lambda test_class: test_class.seconds)
    command = [sys.executable, "-W", "ignore", "-m", "unittest", "-f", *(c.name for c in ordered)]
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / "tree"
        ignored = shutil.ignore_patterns(".venv", ".git", "data", "__pycache__")
        shutil.copytree(ROOT, tree, ignore=ignored)
        (tree / ".venv").symlink_to(ROOT / ".venv")
        (tree / file).write_text(mutant.apply(source), encoding="utf-8")
        try:
            done = subprocess.run(
                command,
                cwd=tree,
                env={**os.environ, "PYTHONPATH": str(tree), "PYTHONDONTWRITEBYTECODE": "1"},
                capture_output=True,
                timeout=4 * MAX_TEST_S,
                check=False,
            )
        except subprocess.TimeoutExpired:
            return True
        return not done.returncode


def _list_class_names() -> list[list[str]]:
    """List the names of the test classes, by module. Imports every test module."""
    names = defaultdict(list)
    for path in sorted((ROOT / "tests").rglob("test_*.py")):
        relative = path.relative_to(ROOT).with_suffix("").parts
        if relative[1] in EXCLUDED_TESTS:
            continue
        module = ".".join(relative)
        for suite in unittest.defaultTestLoader.loadTestsFromName(module):
            for test in suite if isinstance(suite, unittest.TestSuite) else ():
                name = f"{module}.{type(test).__qualname__}"
                if name not in names[module]:
                    names[module].append(name)
    return list(names.values())


def _format_mutant(mutant: Mutant) -> str:
    """Format a mutant as one line."""
    row = mutant.path.read_text(encoding="utf-8").splitlines()[mutant.line - 1].encode()
    old, place = row[mutant.start : mutant.end].decode(), mutant.path.relative_to(ROOT)
    change = f"{mutant.kind}: {old} → {mutant.text}"
    return f"  {place}:{mutant.line} {change}   {row.decode().strip()[:110]}"


# Measured lines, shared with the forks.
CLASSES: list[TestClass] = []


def _judge(mutant: Mutant) -> tuple[Mutant, bool]:
    """Judge a mutant in a fork."""
    return mutant, survives(mutant, CLASSES)


def _read_lines(path: Path | None) -> list[TestClass]:
    """Read the measured lines that this command saved for the same code, or nothing."""
    if path is None or not path.exists():
        return []
    classes: list[TestClass] = pickle.loads(path.read_bytes())
    return classes


def main() -> None:
    """Judge a sample of mutants and print the score."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--sample", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--only", default="", help="part of a path")
    parser.add_argument(
        "--lines", type=Path, help="file of the measured lines, to read or to create"
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
    available = [m for path in files for m in mutants(path)]
    chosen = random.Random(args.seed).sample(available, min(args.sample, len(available)))
    names, fork = _list_class_names(), multiprocessing.get_context("fork")
    with fork.Pool(args.jobs, maxtasksperchild=1) as pool:
        CLASSES.extend(_read_lines(args.lines) or chain(*pool.imap_unordered(measure_lines, names)))
    if args.lines and not args.lines.exists():
        args.lines.write_bytes(pickle.dumps(CLASSES))
    total, left = Counter[str](), Counter[str]()
    with fork.Pool(args.jobs, maxtasksperchild=1) as pool:
        for mutant, alive in pool.imap_unordered(_judge, chosen):
            total[mutant.kind] += 1
            if alive:
                left[mutant.kind] += 1
                print(f"{total.total():4d}{_format_mutant(mutant)}", flush=True)
    for kind, count in sorted(total.items()):
        print(f"{kind}: {count - left[kind]} of {count} killed")
    print(
        f"all: {total.total() - left.total()} of {total.total()} killed,"
        f" {100 * (1 - left.total() / total.total()):.0f} % of a sample from {len(available)}"
    )


if __name__ == "__main__":
    main()
