"""Plants wrong rules in the core and counts how many the tests catch; run by hand.

.venv/bin/python benchmarks/mutants.py --sample 300 --seed 1

Each mutant changes one thing of one file of `wisearc/core`: a number by a tenth (a whole one by
one), a comparison with a number at its edge, one with a figure by a tenth, "and" for "or", or a
caution's level. With --bounds it is the files that hold what is read, kept, let in and told, and
refusals are left out too. The tests are run upon it, failing fast, in a copy of the tree; what no
test notices is listed. A mutant that cannot be told from the rule (a digit of a figure's rounding,
say) is left out by kind, not by hand.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

ROOT = Path(__file__).resolve().parent.parent
TESTS = (
    "tests.core.test_filler",
    "tests.core.test_current_and_pulse",
    "tests.core.test_gas_back_and_heat",
    "tests.core.test_weld_metal",
    "tests.core.test_words",
    "tests.core.test_limits",
    "tests.core.test_cautions",
    "tests.core.test_shelf_rules",
    "tests.core.test_within_a_shop",
    "tests.core.test_pins_and_schools",
    "tests.core.test_joint",
    "tests.core.test_traits",
    "tests.core.test_quantities",
    "tests.outside",
    "tests.core.test_plan_properties.Units",
    "tests.core.test_plan_properties.Monotone",
    "tests.formats.test_joint_json",
    "tests.formats.test_link",
    "tests.formats.test_plan_text",
    "tests.drawings",
    "tests.services.test_kept_for_ever",
)
# what holds the bounds: what is read, kept, let in and told
BOUNDS = (
    "core/record.py",
    "core/proof.py",
    "core/checks.py",
    "core/errors.py",
    "formats/joint_json.py",
    "formats/procedure_json.py",
    "formats/declared.py",
    "formats/plan_json.py",
    "formats/link.py",
    "formats/archive.py",
    "store/database.py",
    "store/folder.py",
    "store/opening.py",
    "store/copies.py",
    "store/merging.py",
    "store/queries.py",
    "services/keeping.py",
    "services/running.py",
    "services/changing.py",
    "services/care.py",
    "services/finding.py",
    "web/gate.py",
    "web/turns.py",
    "web/listener.py",
    "web/errors.py",
    "web/habits.py",
    "web/keep/run_form.py",
    "web/keep/views.py",
    "drawings/seam.py",
    "drawings/heat_across.py",
)
BOUNDS_TESTS = (
    "tests.formats.test_bounds",
    "tests.web.test_gate",
    "tests.web.test_turns",
    "tests.store",
    "tests.core.test_limits",
    "tests.core.test_proof",
    "tests.services.test_running",
    "tests.services.test_planning",
    "tests.web.test_plan_pages",
    "tests.services.test_keeping",
    "tests.services.test_finding",
    "tests.web.test_keep_pages",
    "tests.services.test_care",
    "tests.drawings.test_views",
    "tests.web.test_read_only",
    "tests.formats.test_link",
    "tests.formats.test_joint_json",
    "tests.web.test_listener",
    "tests.services.test_kept_for_ever",
)
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
            and "core/" not in str(path)
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


def _red(tree: Path) -> str | None:
    """What fails in the tree as it stands, or None."""
    done = _tested(tree)
    return None if done.returncode == 0 else done.stderr[-2000:]


def _tested(tree: Path) -> subprocess.CompletedProcess[str]:
    environment = {
        **os.environ,
        "PYTHONPATH": str(tree),
        "PYTHONDONTWRITEBYTECODE": "1",
        "OPENBLAS_NUM_THREADS": "1",
    }
    command = [sys.executable, "-W", "ignore", "-m", "unittest", "-f", *_modules(tree)]
    return subprocess.run(
        command,
        cwd=tree,
        env=environment,
        capture_output=True,
        text=True,
        timeout=SECONDS,
        check=False,
    )


def survives(mutant: Mutant, tree: Path) -> bool:
    """Whether no test notices it. Parameters: tree, a copy of the project."""
    place = tree / mutant.path.relative_to(ROOT)
    source = place.read_text(encoding="utf-8")
    place.write_text(mutant.apply(source), encoding="utf-8")
    try:
        return _tested(tree).returncode == 0
    except subprocess.TimeoutExpired:
        return False
    finally:
        place.write_text(source, encoding="utf-8")


def _modules(tree: Path) -> list[str]:
    found = []
    for name in BOUNDS_TESTS if "--bounds" in sys.argv else TESTS:
        folder = tree / name.replace(".", "/")
        names = (
            [f"{name}.{p.stem}" for p in sorted(folder.glob("test_*.py"))]
            if folder.is_dir()
            else [name]
        )
        found += names
    return found


def main() -> None:
    """Sample, run, tell."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--sample", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument(
        "--bounds", action="store_true", help="the files that hold the bounds, not the core"
    )
    parser.add_argument("--only", default="", help="part of a path")
    args = parser.parse_args()
    files = [
        p
        for p in sorted((ROOT / "wisearc" / "core").rglob("*.py"))
        if args.only in str(p) and p.parent.name != "catalogue"
    ]
    if args.bounds:
        files = [ROOT / "wisearc" / name for name in BOUNDS if args.only in name]
    every = [m for path in files for m in mutants(path)]
    chosen = random.Random(args.seed).sample(every, min(args.sample, len(every)))
    trees: Queue[Path] = Queue()
    with tempfile.TemporaryDirectory() as folder:
        for i in range(args.jobs):
            tree = Path(folder) / str(i)
            shutil.copytree(
                ROOT,
                tree,
                ignore=shutil.ignore_patterns(
                    ".venv", ".git", "data", "__pycache__", "screenshots"
                ),
            )
            trees.put(tree)

        if (red := _red(trees.queue[0])) is not None:
            sys.exit(f"the tests do not pass as they stand:\n{red}")

        def judge(mutant: Mutant) -> tuple[Mutant, bool]:
            tree = trees.get()
            try:
                return mutant, survives(mutant, tree)
            finally:
                trees.put(tree)

        with ThreadPoolExecutor(args.jobs) as pool:
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
    for mutant, alive in results:
        if alive:
            row = mutant.path.read_text(encoding="utf-8").splitlines()[mutant.line - 1].encode()
            old = row[mutant.start : mutant.end].decode()
            print(
                f"  {mutant.path.relative_to(ROOT)}:{mutant.line} {mutant.kind}: {old} →"
                f" {mutant.text}   {row.decode().strip()[:110]}"
            )


if __name__ == "__main__":
    main()
