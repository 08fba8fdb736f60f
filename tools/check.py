"""Run style, types, language and all tests, and print the numbers of passed and failed.

With --coverage, which takes half as long again, print the branch coverage too.
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent
PYTHON = str(HERE / ".venv" / "bin" / "python")
MIN_TESTS = 150


def begun(*command: str) -> subprocess.Popen[str]:
    """Start a module of the environment from the root of the project.

    Its output is read later.
    """
    return subprocess.Popen(
        [PYTHON, "-m", *command],
        cwd=HERE,
        text=True,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
    )


def main() -> int:
    """Return 0 if everything passes."""
    # These use one core while the tests start.
    checks = [
        ("style", begun("ruff", "check", ".")),
        ("format", begun("ruff", "format", "--check", ".")),
        ("types", begun("mypy")),
        ("language", begun("tools.language")),
    ]
    for old in HERE.glob(".coverage*"):
        old.unlink()
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    traced = (
        ("--coverage-branch", "--coverage-source", "wisearc")
        if "--coverage" in sys.argv[1:]
        else ()
    )
    # Three workers on two cores, because many tests wait. More of them only slow each other.
    tests = begun(
        "unittest_parallel", "-j", "3", "-t", ".", "-s", "tests", "--level", "class", *traced
    )
    text = tests.communicate()[0]
    sys.stdout.write(text)
    broken = 0
    for name, check in checks:
        said = check.communicate()[0]
        sys.stdout.write(said if check.returncode else "")
        sys.stdout.write(f"{name}: {'broken' if check.returncode else 'holds'}\n")
        broken += check.returncode != 0
    total = (
        int(found[1]) if (found := re.search(r"^Ran (\d+) tests? in", text, re.MULTILINE)) else 0
    )
    failed = sum(
        int(n) for n in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", text)
    )
    if total < MIN_TESTS:
        sys.stdout.write(f"only {total} tests were found; at least {MIN_TESTS} are there\n")
        broken += 1
    failed += broken + (1 if tests.returncode and not failed else 0)
    sys.stdout.write(f"{total - min(total, failed - broken)} passed, {failed} failed\n")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
