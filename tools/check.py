"""Runs style, types and all tests; last, prints how many passed and failed. With --coverage, which
takes half as long again, the branch coverage too.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent
PYTHON = str(HERE / ".venv" / "bin" / "python")
LEAST_TESTS = 150


def run(*command: str, quiet: bool = False) -> subprocess.CompletedProcess[str]:
    """Run a module of the environment from the project's root."""
    done = subprocess.run(
        [PYTHON, "-m", *command], cwd=HERE, text=True, capture_output=True, check=False
    )
    if not quiet or done.returncode:
        sys.stdout.write(done.stdout + done.stderr)
        sys.stdout.flush()
    return done


def main() -> int:
    """Returns 0 where everything holds."""
    broken = 0
    for name, command in (
        ("style", ("ruff", "check", ".")),
        ("format", ("ruff", "format", "--check", ".")),
        ("types", ("mypy",)),
    ):
        bad = run(*command, quiet=True).returncode != 0
        sys.stdout.write(f"{name}: {'broken' if bad else 'holds'}\n")
        broken += bad
    for old in HERE.glob(".coverage*"):
        old.unlink()
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    traced = (
        ("--coverage-branch", "--coverage-source", "wisearc")
        if "--coverage" in sys.argv[1:]
        else ()
    )
    tests = run(
        "unittest_parallel", "-j", "2", "-t", ".", "-s", "tests", "--level", "class", *traced
    )
    text = tests.stdout + tests.stderr
    total = (
        int(found[1]) if (found := re.search(r"^Ran (\d+) tests? in", text, re.MULTILINE)) else 0
    )
    failed = sum(
        int(n) for n in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", text)
    )
    if total < LEAST_TESTS:
        sys.stdout.write(f"only {total} tests were found; at least {LEAST_TESTS} are there\n")
        broken += 1
    failed += broken + (1 if tests.returncode and not failed else 0)
    sys.stdout.write(f"{total - min(total, failed - broken)} passed, {failed} failed\n")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
