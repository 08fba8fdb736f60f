"""The rules of the project: imports, docstrings, licences, schemas that match the core."""

from __future__ import annotations

import argparse
import ast
import doctest
import importlib
import pkgutil
import re
import subprocess
import sys
import tomllib
import unittest
from collections.abc import Iterator
from functools import cache
from pathlib import Path

from jsonschema import Draft202012Validator

import wisearc
from tools.schemas import schema_text
from wisearc.core import catalogue
from wisearc.formats.schema import NAMES, load_schema

ROOT = Path(wisearc.__file__).parent
PROJECT = ROOT.parent
LAYERS = {
    "core": {"core"},
    "formats": {"core", "formats"},
    "drawings": {"core", "drawings"},
    "photo": {"core", "photo"},
    "store": {"core", "formats", "store"},
    "services": {"core", "formats", "drawings", "photo", "store", "services"},
    "simulators": {"core", "simulators"},
    "forms": {"core", "formats", "drawings", "services", "forms"},
    "presenters": {"core", "formats", "drawings", "services", "forms", "presenters"},
    "documents": {"core", "drawings", "services", "presenters", "documents"},
    "web": {"core", "services", "forms", "presenters", "web"},
    "cli": {"core", "services", "presenters", "documents", "simulators", "web", "cli"},
    "__main__": {"cli"},
    "__init__": set(),
}
CORE_OUTSIDE: set[str] = set()
FORBIDDEN_IN_CORE = {
    "flask",
    "peewee",
    "random",
    "datetime",
    "time",
    "secrets",
    "sqlite3",
    "logging",
    "subprocess",
    "socket",
}
NEEDS_NO_SOURCE = {
    "judge_analysis",
    "mix_weld_metal",
    "has_martensite_start",
    "exit_speed_m_s",
    "bore_mm",
    "flow_l_min",
    "consumption_l",
    "calculate_pren",
}
STDLIB_WEB = {"flask", "flask_wtf", "flask_compress", "werkzeug", "waitress"}


def modules() -> list[tuple[str, Path]]:
    """Return every module of the package: dotted name below it, and its file."""
    return [
        (str(p.relative_to(ROOT).with_suffix("")).replace("/", "."), p)
        for p in sorted(ROOT.rglob("*.py"))
        if "migrations" not in p.parts
    ]


@cache
def imports(path: Path) -> list[str]:
    """Return the dotted names that a file imports, relative ones resolved below the package."""
    package = list(path.relative_to(ROOT).parts[:-1])
    found = []
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found += [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom) and node.level:
            base = package[: len(package) - node.level + 1]
            stem = ["wisearc", *base, *([node.module] if node.module else [])]
            found += (
                [".".join([*stem, alias.name]) for alias in node.names]
                if not node.module
                else [".".join(stem)]
            )
        elif isinstance(node, ast.ImportFrom):
            found.append(node.module or "")
    return found


class Imports(unittest.TestCase):
    """Data passes down the layers once; a lower layer does not know a higher one."""

    def test_layers(self) -> None:
        for name, path in modules():
            layer = name.split(".")[0]
            for target in imports(path):
                parts = target.split(".")
                if parts[0] != "wisearc" or len(parts) < 2 or parts[1] == "__version__":
                    continue
                with self.subTest(module=name, imports=target):
                    self.assertIn(parts[1], LAYERS[layer])

    def test_core_is_pure(self) -> None:
        for name, path in modules():
            if name.split(".")[0] == "core":
                roots = {target.split(".")[0] for target in imports(path)}
                with self.subTest(module=name):
                    self.assertFalse(roots & FORBIDDEN_IN_CORE)
                    self.assertNotIn("print(", path.read_text(encoding="utf-8"))

    def test_web_packages_stay_in_web(self) -> None:
        for name, path in modules():
            if name.split(".")[0] not in ("web", "forms", "cli"):
                roots = {target.split(".")[0] for target in imports(path)}
                with self.subTest(module=name):
                    self.assertFalse(roots & STDLIB_WEB)

    def test_one_module_starts_processes_for_the_pages(self) -> None:
        """Pages start threads in one module, devices in another. A command watches its server."""
        allowed = {
            "services.background",
            "services.devices.device_reader",
            "services.lifeline",
        }
        starting = {
            name
            for name, path in modules()
            if name.split(".")[0] in ("services", "presenters", "forms")
            and re.search(r"\bPopen\(|\bsubprocess\.run\(|\bThread\(", path.read_text("utf-8"))
        }
        self.assertEqual(starting, allowed)

    def test_start_leaves_large_libraries_for_later(self) -> None:
        """Importing numpy alone takes a quarter of a start."""
        code = (
            "import sys, wisearc.web.serve, wisearc.services.planning.planner; print(*sys.modules)"
        )
        said = subprocess.run(
            [sys.executable, "-c", code], cwd=PROJECT, capture_output=True, text=True, check=True
        )
        large = (
            "numpy",
            "scipy",
            "pyarrow",
            "PIL",
            "reportlab",
            "ezdxf",
            "segno",
            "cv2",
            "pi_heif",
        )
        for name in large:
            with self.subTest(library=name):
                self.assertNotIn(name, said.stdout.split())

    def test_every_layer_is_there(self) -> None:
        checked = {name.split(".")[0] for name, _ in modules()}
        self.assertLessEqual(checked, set(LAYERS))


class Typed(unittest.TestCase):
    """Data is typed after parsing."""

    # The parsers, the catalogue tables, and values of every kind of choice in one object.
    UNTYPED = 20

    def test_no_untyped_object_beyond_the_parsers(self) -> None:
        untyped = re.compile(r"\b(?:Mapping|[Dd]ict)\[str, (?:Any|object)\]")
        found = {
            str(path.relative_to(ROOT)): len(untyped.findall(path.read_text(encoding="utf-8")))
            for path in ROOT.rglob("*.py")
        }
        self.assertLessEqual(
            sum(found.values()), self.UNTYPED, {k: n for k, n in found.items() if n}
        )

    def test_parsing_stays_in_the_parsers(self) -> None:
        raw = re.compile(r"\b(?:Unparsed|Data)\b")
        holders = {"core/catalogue", "core/schema", "formats", "formats/upgrades"}
        for path in ROOT.rglob("*.py"):
            place = str(path.relative_to(ROOT).parent)
            imports = re.findall(r"^from .*json_types import (.*)$", path.read_text(), re.MULTILINE)
            if any(raw.search(names) for names in imports):
                with self.subTest(file=path.name):
                    self.assertIn(place, holders)

    def test_templates_receive_typed_values_only(self) -> None:
        for path in (ROOT / "web").rglob("*.py"):
            text = path.read_text(encoding="utf-8")
            if "render_template(" in text:
                with self.subTest(file=str(path.relative_to(ROOT))):
                    self.assertNotRegex(text, r"\) -> Any:")


class Docstrings(unittest.TestCase):
    """Every public module, class and function has a docstring; examples run."""

    def test_present(self) -> None:
        for name, path in modules():
            tree = ast.parse(path.read_text(encoding="utf-8"))
            with self.subTest(module=name):
                self.assertTrue(ast.get_docstring(tree))
            for node in tree.body:
                if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith(
                    "_"
                ):
                    with self.subTest(module=name, member=node.name):
                        self.assertTrue(ast.get_docstring(node))

    def test_formulas_name_source_or_mark(self) -> None:
        source = re.compile(
            r"References:\n\s+\S|[Cc]ommon practice|[Ee]stimate|[Pp]ublished|definition|"
            r"reference (value|library)|[Gg]eometry|\b(ASME|EN|IEC|AWS|Wells|Adams|Rosenthal)\b"
        )
        for path in [
            *(ROOT / "core" / "physics" / f"{n}.py" for n in ("heat", "chemistry", "gas", "purge")),
            *(ROOT / "core" / "templates" / f"{name}.py" for name in ("cope", "plane_cut")),
        ]:
            tree = ast.parse(path.read_text(encoding="utf-8"))
            for node in tree.body:
                if (
                    isinstance(node, ast.FunctionDef)
                    and not node.name.startswith("_")
                    and node.name not in NEEDS_NO_SOURCE
                ):
                    with self.subTest(module=path.stem, function=node.name):
                        self.assertRegex(ast.get_docstring(node) or "", source)

    def test_examples_run(self) -> None:
        ran, finder, runner = 0, doctest.DocTestFinder(), doctest.DocTestRunner()
        for info in pkgutil.walk_packages([str(ROOT)], "wisearc."):
            if "migrations" in info.name or info.name.endswith("__main__"):
                continue
            for example in finder.find(importlib.import_module(info.name)):
                if example.examples:
                    result = runner.run(example)
                    ran += result.attempted
                    with self.subTest(example=example.name):
                        self.assertEqual(result.failed, 0)
        self.assertGreater(ran, 20)


class Schemas(unittest.TestCase):
    """The schemas agree with the parsers and the present declarations."""

    def test_shipped(self) -> None:
        for name in NAMES:
            with self.subTest(schema=name):
                Draft202012Validator.check_schema(load_schema(name))

    def test_current(self) -> None:
        """`tools/documents.py schemas` rebuilds them."""
        for name in NAMES:
            path = ROOT / "formats" / "schemas" / f"{name}.schema.json"
            with self.subTest(schema=name):
                self.assertEqual(path.read_text(encoding="utf-8"), schema_text(name))

    def test_fixed_names(self) -> None:
        """The names other programs rely on, as the formats' document fixes them."""
        properties = load_schema("joint")["properties"]
        self.assertEqual(
            properties["joint"]["enum"],
            [
                "butt",
                "lap",
                "tee",
                "outside-corner",
                "inside-corner",
                "edge",
                "tube-butt",
                "tube-plate",
                "tube-socket",
                "tube-cope",
                "tube-mitre",
                "stud-in-plate",
            ],
        )
        self.assertEqual(
            properties["position"]["enum"],
            ["flat", "horizontal", "vertical-up", "vertical-down", "overhead", "fixed-tube"],
        )
        self.assertEqual(
            properties["pulse"]["enum"],
            ["auto", "none", "slow-cold", "ripple", "fast", "focused", "pedal"],
        )
        self.assertEqual(
            set(properties["back"]["enum"]),
            {"auto", "purge", "copper-bar", "aluminium-bar", "steel-bar", "flux", "open"},
        )


def _properties(node: object) -> Iterator[str]:
    """The key of every property of a schema."""
    if isinstance(node, dict):
        yield from node.get("properties", {})
        for value in node.values():
            yield from _properties(value)
    elif isinstance(node, list):
        for value in node:
            yield from _properties(value)


class House(unittest.TestCase):
    """Shipped files and the contents of the documents."""

    def test_licences_of_shipped_files(self) -> None:
        for folder in (ROOT / "web" / "static" / "vendor").iterdir():
            if folder.is_dir():
                with self.subTest(folder=folder.name):
                    self.assertTrue(list(folder.glob("LICENSE*")))

    def test_no_address_outside_in_pages(self) -> None:
        for path in [*ROOT.rglob("*.html"), *(ROOT / "web" / "static").glob("*.*")]:
            text = re.sub(r"http://www\.w3\.org/\S+", "", path.read_text(encoding="utf-8"))
            with self.subTest(file=path.name):
                self.assertNotRegex(text, r"https?://")

    def test_lines_are_as_long_as_one_reads(self) -> None:
        """160 columns in a template; elsewhere ruff holds 100, as the formatter leaves them."""
        long = [
            f"{path.name}:{i}"
            for path in ROOT.rglob("*.html")
            for i, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1)
            if len(line) > 160
        ]
        self.assertEqual(long, [])
        skips = [p.name for p in ROOT.rglob("*.py") if "fmt: skip" in p.read_text("utf-8")]
        self.assertEqual(skips, [])

    def test_templates_decide_no_styles(self) -> None:
        for path in ROOT.rglob("*.html"):
            with self.subTest(file=path.name):
                self.assertNotRegex(
                    path.read_text(encoding="utf-8"), r"<style|\sstyle=|<script>|\son\w+="
                )

    def test_commands_are_documented(self) -> None:
        from wisearc.cli import _build_parser

        text = (PROJECT / "docs" / "reference" / "commands.md").read_text(encoding="utf-8")
        (commands,) = (
            action.choices
            for action in _build_parser()._actions
            if isinstance(action, argparse._SubParsersAction)
        )
        self.assertGreater(len(commands), 15)
        for command in commands:
            with self.subTest(command=command):
                self.assertRegex(text, rf"wisearc {command}\b|`{command}` still works")
        readme = (PROJECT / "README.md").read_text(encoding="utf-8")
        self.assertLess(readme.index("./start"), readme.index("## Pages"))

    def test_links_between_documents_lead_somewhere(self) -> None:
        for path in [*PROJECT.glob("*.md"), *(PROJECT / "docs").rglob("*.md")]:
            text = re.sub(r"```.*?```", "", path.read_text(encoding="utf-8"), flags=re.DOTALL)
            for target in re.findall(r"\]\(([^)#]+)[^)]*\)", text):
                if "://" not in target:
                    with self.subTest(file=path.name, target=target):
                        self.assertTrue((path.parent / target).exists())

    def test_the_guide_in_the_product_is_current(self) -> None:
        """`tools/documents.py guide` rebuilds it."""
        from tools import documents

        shipped = {
            path.name: path.read_text(encoding="utf-8")
            for path in (documents.GUIDE / "pages").glob("*.txt")
        }
        self.assertEqual(shipped, documents.render_guide())
        for html in shipped.values():
            for picture in re.findall(r"/guide/pictures/([\w-]+\.png)", html):
                self.assertEqual(
                    (documents.GUIDE / "pictures" / picture).read_bytes(),
                    (PROJECT / "docs" / "screenshots" / picture).read_bytes(),
                )

    def test_the_glossary_document_has_every_term(self) -> None:
        text = (PROJECT / "docs" / "reference" / "glossary.md").read_text(encoding="utf-8")
        for term in catalogue.load_glossary().values():
            self.assertIn(f"| {term.term} | {term.text} |", text)

    def test_the_document_of_caution_codes_is_current(self) -> None:
        """`tools/documents.py cautions` writes it."""
        from tools import documents

        text = (PROJECT / "docs" / "reference" / "caution-codes.md").read_text(encoding="utf-8")
        self.assertEqual(text, documents.render_caution_codes())

    def test_sources_document_lists_every_key(self) -> None:
        text = (PROJECT / "docs" / "reference" / "sources.md").read_text(encoding="utf-8")
        for key in [*catalogue.load_works(), *catalogue.load_estimates()]:
            with self.subTest(key=key):
                self.assertEqual(text.count(f"`{key}`"), 1)

    def test_nomenclature_holds_every_key_that_bears_a_unit(self) -> None:
        """`tools/documents.py symbols` writes them; the keys here are those of the schemas."""
        text = (PROJECT / "docs" / "reference" / "symbols.md").read_text(encoding="utf-8")
        held = dict(re.findall(r"^\| `(\w+)` \|.*\| ([^|]+) \|$", text, re.M))
        ends = {
            "_mm": "mm",
            "_s": "s",
            "_a": "A",
            "_pct": "%",
            "_deg": "°",
            "_pps": "1/s",
            "_l_min": "L/min",
            "_cfh": "CFH",
            "_kj_mm": "kJ/mm",
            "_l": "L",
            "_v": "V",
            "_g": "g",
            "_eq": "wt%",
        }
        found = [
            key
            for name in NAMES
            for key in _properties(load_schema(name))
            if key.endswith(tuple(ends))
        ]
        self.assertGreater(len(set(found)), 70)
        for key in found:
            end = max((e for e in ends if key.endswith(e)), key=len)
            unit = {"_mm_s": "mm/s", "_m_s": "m/s"}.get(
                next((e for e in ("_mm_s", "_m_s") if key.endswith(e)), ""), ends[end]
            )
            with self.subTest(key=key):
                self.assertEqual(held.get(key), unit)

    def test_screenshots_are_linked(self) -> None:
        readme = (PROJECT / "README.md").read_text(encoding="utf-8")
        shots = list((PROJECT / "docs" / "screenshots").glob("*.png"))
        self.assertTrue(0 < len(shots) < 20)
        for shot in shots:
            self.assertIn(f"docs/screenshots/{shot.name}", readme)

    def test_lock_files_pin_and_hash(self) -> None:
        wanted = tomllib.loads((PROJECT / "pyproject.toml").read_text(encoding="utf-8"))["project"][
            "dependencies"
        ]
        pip = (PROJECT / "requirements-pip.lock").read_text(encoding="utf-8")
        self.assertRegex(pip, r"(?m)^pip==\S+ \\\n +--hash=sha256:")
        for lock in ("requirements.lock", "requirements-dev.lock"):
            text = (PROJECT / lock).read_text(encoding="utf-8")
            for need in wanted:
                name = re.split(r"[<>=]", need)[0]
                self.assertRegex(text, rf"(?m)^{name}==\S+ \\\n +--hash=")


if __name__ == "__main__":
    unittest.main()
