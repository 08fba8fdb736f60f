"""Collect the texts of the project: text on screen, documents, docstrings, comments and names."""

from __future__ import annotations

import ast
import io
import json
import re
import tokenize
import tomllib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path

CODE_FOLDERS = ("wisearc", "tools", "benchmarks", "tests")
CODE_SUFFIXES = (".py", ".html", ".js", ".css", ".toml")
# History fixes these: migrations, frozen records, third-party files. The rules, their test and the
# language guide quote the wording that they forbid.
EXCLUDED = re.compile(
    r"/migrations/|/frozen/|/vendor/|tests/records|tests/outside/.*\.json"
    r"|/(test_)?language(_rules)?\.(md|py)$"
)
CODE_LIKE = re.compile(
    r"^\s*<|\b(SELECT|PRAGMA|INSERT|UPDATE|CREATE|DELETE|TRIGGER|ORDER BY|VALUES|rowid)\b|=\""
    r"|charset=|attachment;|-src |\\[swdb]|\(\?|\[\^|^[a-z-]+: ?[\w#-]+;|^rotate\("
)
SENTENCE = re.compile(r"[a-zé]{2,}.* |.* [a-zé]{2,}")
LABEL = re.compile(r"^[A-Z][a-z]+(-[a-z]+)?[,:;]? ?$")
JINJA = re.compile(r"\{#.*?#\}|\{%.*?%\}|\{\{.*?\}\}", re.DOTALL)
JINJA_CODE = re.compile(r"^\{%-?\s*(extends|include|import|from|block|endblock|set place|macro)\b")
ATTRIBUTES = re.compile(r"\b(aria-label|placeholder|title|alt|data-label)=\"([^\"]*)\"")
INLINE_TAGS = frozenset(
    ["a", "b", "i", "em", "strong", "small", "span", "kbd", "code", "cite", "s", "u", "br"]
)
HEADINGS = frozenset(["h1", "h2", "h3", "legend", "title", "summary"])
DIRECTIVE = re.compile(r"#( ?(fmt|noqa|type|pragma)|!)")
# Replaces a tag that separates two texts.
SEPARATOR = "\x01"


@dataclass(frozen=True)
class Text:
    """A text and its place.

    Attributes:
        scope: "ui", "docs", "notes" or "names".
        file: Path from the root of the project.
        line: Line, from 1.
        text: The text, with {} for inserted values.
        kind: "heading", "function", "field" and so on.
    """

    scope: str
    file: str
    line: int
    text: str
    kind: str = ""


def list_files(root: Path) -> Iterator[tuple[str, Path]]:
    """Yield the name and the path of each checked file."""
    for path in sorted(root.rglob("*")):
        name = path.relative_to(root).as_posix()
        if any(part.startswith((".", "__pycache__")) for part in path.parts[len(root.parts) :]):
            continue
        is_code = name.partition("/")[0] in CODE_FOLDERS and path.suffix in CODE_SUFFIXES
        if (is_code or path.suffix == ".md") and not EXCLUDED.search("/" + name):
            yield name, path


@cache
def read_nodes(source: str) -> tuple[ast.AST, ...]:
    """Return all nodes of a Python source, the module first."""
    return tuple(ast.walk(ast.parse(source)))


def read_texts(root: Path) -> list[Text]:
    """Return the texts of the project."""
    texts: list[Text] = []
    for name, path in list_files(root):
        source = path.read_text(encoding="utf-8", errors="replace")
        is_product = name.startswith("wisearc/")
        if path.suffix == ".py":
            texts += read_python(name, source, is_product)
        elif path.suffix == ".html":
            texts += read_template(name, source)
            texts.append(Text("names", name, 1, path.stem.lstrip("_"), "template"))
        elif path.suffix == ".md":
            texts += read_document(name, source)
        elif is_product and path.suffix == ".js":
            texts += read_script(name, source)
        elif is_product and path.suffix == ".toml":
            texts += read_table(name, source)
        elif is_product and path.suffix == ".css":
            texts += [
                Text("notes", name, count_lines(source, match.start()), fold(match[1]), "comment")
                for match in re.finditer(r"/\*(.*?)\*/", source, re.DOTALL)
            ]
    return texts


def read_fixed_keys(root: Path) -> set[str]:
    """Return the names that the JSON Schemas of the open formats fix."""
    keys: set[str] = set()
    for path in (root / "wisearc").rglob("*.schema.json"):
        for value in _walk(json.loads(path.read_text(encoding="utf-8"))):
            if isinstance(value, dict) and isinstance(value.get("properties"), dict):
                keys.update(value["properties"])
    return keys


def _walk(value: object) -> Iterator[object]:
    """Yield a value of a JSON or TOML file and everything inside it."""
    yield value
    inner = value.values() if isinstance(value, dict) else value if isinstance(value, list) else ()
    for item in inner:
        yield from _walk(item)


def read_functions(root: Path) -> list[tuple[str, ast.FunctionDef]]:
    """Return the functions and methods of the product, without properties and dunder methods."""
    functions = []
    for name, path in list_files(root):
        if not name.startswith("wisearc/") or path.suffix != ".py":
            continue
        for node in read_nodes(path.read_text(encoding="utf-8")):
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("__"):
                marks = {ast.unparse(mark).partition("(")[0] for mark in node.decorator_list}
                if not marks & {"property", "cached_property", "abstractmethod"}:
                    functions.append((name, node))
    return functions


def count_lines(source: str, offset: int) -> int:
    """Return the line of an offset, from 1.

    Args:
        source: The source.
        offset: Characters from its start.
    """
    return source.count("\n", 0, offset) + 1


def fold(text: str) -> str:
    """Return a text with single spaces."""
    return " ".join(text.split())


def is_readable(text: str) -> bool:
    """Return whether a literal is a text for people."""
    if CODE_LIKE.search(text):
        return False
    if LABEL.match(text.strip()):
        return True
    has_word = re.search(r"[a-z]{3}", text.replace("{}", ""))
    return " " in text.strip() and bool(SENTENCE.search(text) and has_word)


def to_snake_case(name: str) -> str:
    """Return a name in snake case."""
    return re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", name).lower().strip("_")


def read_python(name: str, source: str, is_product: bool) -> list[Text]:
    """Return the texts of a Python file.

    Args:
        name: Path from the root.
        source: Its content.
        is_product: Whether its literals are text on screen.
    """
    nodes = read_nodes(source)
    texts = _read_names(name, nodes)
    docstrings: set[int] = set()
    for node in nodes:
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
            first = node.body[0] if node.body else None
            value = first.value if isinstance(first, ast.Expr) else None
            if isinstance(value, ast.Constant) and isinstance(value.value, str):
                docstrings.add(id(value))
                text = re.sub(r"\n\s*>>>.*", "", value.value, flags=re.DOTALL)
                texts.append(Text("notes", name, value.lineno, fold(text), "docstring"))
    if is_product:
        texts += _read_literals(name, nodes, docstrings)
    tokens = tokenize.generate_tokens(io.StringIO(source).readline) if "#" in source else ()
    for token in tokens:
        if token.type == tokenize.COMMENT and not DIRECTIVE.match(token.string):
            text = token.string.lstrip("# ")
            texts.append(Text("notes", name, token.start[0], text, "comment"))
    return texts


def _read_names(name: str, nodes: Sequence[ast.AST]) -> list[Text]:
    """Return the names that a Python file defines, each kind once."""
    fields = {
        id(item.target)
        for node in nodes
        if isinstance(node, ast.ClassDef)
        for item in node.body
        if isinstance(item, ast.AnnAssign)
    }
    names: dict[tuple[str, str], int] = {}
    if Path(name).stem != "__init__":
        names[Path(name).stem, "module"] = 1
    for node in nodes:
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            names.setdefault((node.name, "function"), node.lineno)
        elif isinstance(node, ast.ClassDef):
            names.setdefault((node.name, "class"), node.lineno)
        elif isinstance(node, ast.arg):
            names.setdefault((node.arg, "parameter"), node.lineno)
        elif isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store):
            names.setdefault((node.id, "field" if id(node) in fields else "variable"), node.lineno)
        elif isinstance(node, ast.Attribute) and isinstance(node.ctx, ast.Store):
            names.setdefault((node.attr, "attribute"), node.lineno)
    return [
        Text("names", name, line, identifier, kind)
        for (identifier, kind), line in names.items()
        if not identifier.startswith("__") and len(identifier) > 1
    ]


def _read_literals(name: str, nodes: Sequence[ast.AST], skipped: set[int]) -> list[Text]:
    """Return the literals for people, except docstrings."""
    skipped = set(skipped)
    texts = []
    for node in nodes:
        if isinstance(node, ast.Assign) and any(
            isinstance(target, ast.Name) and target.id == "__all__" for target in node.targets
        ):
            skipped.update(id(item) for item in ast.walk(node.value))
        if isinstance(node, ast.JoinedStr):
            skipped.update(id(part) for part in node.values)
            text = "".join(
                str(part.value) if isinstance(part, ast.Constant) else "{}" for part in node.values
            )
            if is_readable(text):
                texts.append(Text("ui", name, node.lineno, fold(text), "literal"))
    for node in nodes:
        if isinstance(node, ast.Constant) and isinstance(node.value, str):
            text = re.sub(r"\{[^{}]*\}", "{}", node.value)
            if id(node) not in skipped and is_readable(text):
                texts.append(Text("ui", name, node.lineno, fold(text), "literal"))
    return texts


def _has_letters(text: str) -> bool:
    return bool(re.search(r"[A-Za-z]{2}", text.replace("{}", "")))


def read_template(name: str, source: str) -> list[Text]:
    """Return the texts, attributes and literals of a Jinja template.

    Args:
        name: Path from the root.
        source: Its content.
    """
    texts: list[Text] = []

    def replace_tag(match: re.Match[str]) -> str:
        tag = match[0]
        line_ends = "\n" * tag.count("\n")
        if tag.startswith("{#"):
            return line_ends
        if not JINJA_CODE.match(tag) and "url_for(" not in tag:
            line = count_lines(source, match.start())
            for literal in re.finditer(r"\"([^\"]*)\"|'([^']*)'", tag):
                text = literal[1] or literal[2] or ""
                if is_readable(text):
                    texts.append(Text("ui", name, line, fold(text), "literal"))
        return ("{}" if tag.startswith("{{") else SEPARATOR) + line_ends

    plain = re.sub(
        r"<(script|style)\b.*?</\1>",
        lambda match: "\n" * match[0].count("\n"),
        JINJA.sub(replace_tag, source),
        flags=re.DOTALL,
    )
    return texts + _read_html(name, plain)


def _read_html(name: str, plain: str) -> list[Text]:
    """Return the texts and the readable attributes of HTML without Jinja tags."""
    texts: list[Text] = []
    position, buffer, open_tag = 0, "", ""

    def finish_text(offset: int) -> None:
        nonlocal buffer
        kind = "heading" if open_tag in HEADINGS else open_tag
        for piece in buffer.split(SEPARATOR):
            if _has_letters(piece):
                texts.append(Text("ui", name, count_lines(plain, offset), fold(piece), kind))
        buffer = ""

    for match in re.finditer(r"<!--.*?-->|<!?/?([a-zA-Z0-9]+)[^>]*>", plain, re.DOTALL):
        buffer += plain[position : match.start()]
        position = match.end()
        for attribute in ATTRIBUTES.finditer(match[0]):
            line = count_lines(plain, match.start())
            texts += [
                Text("ui", name, line, fold(piece), "attribute")
                for piece in attribute[2].split(SEPARATOR)
                if _has_letters(piece)
            ]
        tag = (match[1] or "").lower()
        if tag not in INLINE_TAGS:
            finish_text(match.start())
            open_tag = "" if match[0].startswith("</") else tag
    buffer += plain[position:]
    finish_text(len(plain))
    return texts


def read_script(name: str, source: str) -> list[Text]:
    """Return the literals, comments and functions of a JavaScript file.

    Args:
        name: Path from the root.
        source: Its content.
    """
    texts: list[Text] = []
    parts = re.compile(
        r"//[^\n]*|/\*.*?\*/|\"(?:\\.|[^\"\\\n])*\"|'(?:\\.|[^'\\\n])*'|`(?:\\.|[^`\\])*`",
        re.DOTALL,
    )
    for match in parts.finditer(source):
        line = count_lines(source, match.start())
        if match[0].startswith(("//", "/*")):
            texts.append(Text("notes", name, line, fold(match[0].strip("/* ")), "comment"))
            continue
        text = re.sub(r"\$\{[^}]*\}", "{}", match[0][1:-1])
        if is_readable(text) and not re.search(r"[\[\]=#<>]|^\.", text):
            texts.append(Text("ui", name, line, fold(text), "literal"))
    for match in re.finditer(r"\bfunction (\w+)", source):
        line = count_lines(source, match.start())
        texts.append(Text("names", name, line, to_snake_case(match[1]), "function"))
    return texts


def read_table(name: str, source: str) -> list[Text]:
    """Return the texts and comments of a TOML file.

    Args:
        name: Path from the root.
        source: Its content.
    """
    texts = [
        Text("notes", name, number, line.lstrip("# "), "comment")
        for number, line in enumerate(source.splitlines(), 1)
        if line.lstrip().startswith("#")
    ]
    data = tomllib.loads(source)
    if name.endswith("sources.toml"):
        # The title of a cited work is as published.
        for work in data.get("works", {}).values():
            work.pop("title", None)

    for value in _walk(data):
        if isinstance(value, str):
            text = re.sub(r"\{[^{}]*\}", "{}", value)
            if is_readable(text):
                line = count_lines(source, max(0, source.find(value)))
                texts.append(Text("ui", name, line, fold(text), "literal"))
    return texts


def read_document(name: str, source: str) -> list[Text]:
    """Return the paragraphs, list items and cells of a Markdown file, without code.

    Args:
        name: Path from the root.
        source: Its content.
    """
    texts: list[Text] = []
    source = re.sub(r"```.*?```", lambda m: "\n" * m[0].count("\n"), source, flags=re.DOTALL)
    block: list[str] = []
    start = 1

    def finish_block(kind: str = "paragraph") -> None:
        text = re.sub(r"`[^`]*`", "{}", " ".join(block))
        text = re.sub(r"!?\[([^\]]*)\]\([^)]*\)", r"\1", text).replace("**", "")
        cells = text.split("|") if text.lstrip().startswith("|") else [text]
        texts.extend(
            Text("docs", name, start, fold(cell), kind) for cell in cells if _has_letters(cell)
        )
        block.clear()

    for number, line in enumerate(source.splitlines(), 1):
        text = line.strip()
        is_item = text.startswith(("#", "|", "- ", "* ")) or re.match(r"\d+\. ", text)
        if not text or is_item:
            finish_block()
        if not block:
            start = number
        if text.startswith("#"):
            block.append(text.lstrip("# "))
            finish_block("heading")
        elif text:
            block.append(re.sub(r"^([-*]|\d+\.) ", "", text))
    finish_block()
    return texts
