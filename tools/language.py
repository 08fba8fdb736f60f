"""Check the wording of the project: text on screen, documents, docstrings, comments and names.

`./check` runs it. docs/contributing/language.md is the guide, `language_rules.py` has the rules,
and `language_exceptions.txt` the matches that are correct.

    .venv/bin/python -m tools.language                check everything
    .venv/bin/python -m tools.language --figures      print the measured figures too
    .venv/bin/python -m tools.language --exceptions   print a line for each match
"""

from __future__ import annotations

import ast
import gc
import re
import sys
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

from .language_rules import (
    CLAUSE_HEADING,
    LIMITS,
    LOOSE_CLAUSE,
    NAMES,
    PHRASES,
    PRONOUNS,
    UNIT_SUFFIX,
    VAGUE_VARIABLES,
    VERBS,
)
from .language_texts import Text, read_fixed_keys, read_functions, read_texts, to_snake_case

ROOT = Path(__file__).resolve().parent.parent
EXCEPTIONS = Path(__file__).with_name("language_exceptions.txt")
MIN_SENTENCE_WORDS, LONG_SENTENCE_WORDS = 5, 25
ABBREVIATION = re.compile(r"\b(no|No|min|max|approx|e\.g|i\.e|vs|fig|incl|cf)\.")
PARAMETERS = re.compile(r"^\s*Args:\n", re.MULTILINE)

Function = tuple[str, ast.FunctionDef]
Match = tuple[str, Text, str]
Exempt = tuple[str, str, str]
# One search for all rules is faster than one for each.
ANY_PHRASE = re.compile("|".join(f"(?:{rule.expression.pattern})" for rule in PHRASES), re.I)
ANY_NAME = re.compile("|".join(f"(?:{rule.expression.pattern})" for rule in NAMES))


def find_matches(texts: Iterable[Text], fixed_keys: set[str]) -> Iterator[Match]:
    """Yield each wrong wording as rule, text and advice.

    Args:
        texts: The texts of the project.
        fixed_keys: Names that a file format fixes.
    """
    for text in texts:
        if text.scope != "names":
            for rule in PHRASES if ANY_PHRASE.search(text.text) else ():
                if rule.expression.search(text.text):
                    yield rule.name, text, rule.advice
            if text.scope == "ui" and text.kind == "heading" and CLAUSE_HEADING.search(text.text):
                yield "heading", text, "a noun or an imperative"
        elif text.text not in fixed_keys or text.kind not in ("field", "parameter", "attribute"):
            name = to_snake_case(text.text)
            for rule in NAMES if ANY_NAME.search(name) else ():
                if rule.expression.search(name):
                    yield rule.name, text, rule.advice


def find_function_matches(functions: Iterable[Function]) -> Iterator[Match]:
    """Yield vague variables, and public functions without a section on their parameters."""
    for file, node in functions:
        parameters = [
            item.arg
            for item in node.args.args + node.args.kwonlyargs
            if item.arg not in ("self", "cls")
        ]
        stored = {
            item.id
            for item in ast.walk(node)
            if isinstance(item, ast.Name) and isinstance(item.ctx, ast.Store)
        }
        for variable in sorted(stored.union(parameters) & VAGUE_VARIABLES):
            yield (
                "vague",
                Text("names", file, node.lineno, f"{node.name}: {variable}"),
                "name the content",
            )
        is_public = not node.name.startswith("_") and len(parameters) >= 2
        if is_public and not PARAMETERS.search(ast.get_docstring(node) or ""):
            yield (
                "parameters",
                Text("notes", file, node.lineno, node.name),
                "describe the parameters under Args",
            )


def split_sentences(text: str) -> list[str]:
    """Return the sentences of a text. An inserted value counts as one word."""
    text = ABBREVIATION.sub(lambda match: match[1], text.replace("{}", "10"))
    parts = re.split(r"(?<=[.!?])\s+(?=[A-Z0-9“(])", text)
    return [part for part in parts if re.search(r"[A-Za-z]", part)]


def split_words(text: str) -> list[str]:
    """Return the words and numbers of a text."""
    return re.findall(r"[A-Za-zÀ-ÿ]+(?:['’-][A-Za-zÀ-ÿ]+)*|\d+(?:[.,]\d+)*", text)


def count_syllables(word: str) -> int:
    """Return the estimated number of syllables of an English word."""
    letters = re.sub(r"[^a-z]", "", word.lower())
    if len(letters) <= 3:
        return 1
    letters = re.sub(r"(?:[^laeiouy]es|[^aeioutd]ed|[^l]e)$", lambda end: end[0][0], letters)
    return max(1, len(re.findall(r"[aeiouy]+", letters.removeprefix("y"))))


def calculate_flesch(sentences: Sequence[str]) -> float:
    """Return the reading ease of sentences; higher is easier.

    References:
        Flesch 1948: 206.835 - 1.015 words/sentence - 84.6 syllables/word. Published, from memory.
    """
    words = [word for sentence in sentences for word in split_words(sentence)]
    syllables = sum(map(count_syllables, words))
    return 206.835 - 1.015 * len(words) / len(sentences) - 84.6 * syllables / len(words)


def measure_texts(texts: Sequence[Text]) -> dict[str, float]:
    """Return the figures of the sentences."""
    figures: dict[str, float] = {}
    for scope in ("ui", "docs"):
        sentences = [
            sentence
            for text in texts
            if text.scope == scope
            for sentence in split_sentences(text.text)
            if len(split_words(sentence)) >= MIN_SENTENCE_WORDS
        ]
        if not sentences:
            continue
        words = [split_words(sentence) for sentence in sentences]
        count, total = len(sentences), sum(map(len, words))
        too_long = sum(len(row) > LONG_SENTENCE_WORDS for row in words)
        clauses = sum(len(re.findall(r"[;:]|,(?! \d)", sentence)) for sentence in sentences)
        pronouns = sum(word.lower() in PRONOUNS for row in words for word in row)
        loose = sum(len(LOOSE_CLAUSE.findall(sentence)) for sentence in sentences)
        figures |= {
            f"words_per_sentence.{scope}": total / count,
            f"long_sentences_pct.{scope}": 100 * too_long / count,
            f"clauses_per_100_words.{scope}": 100 * clauses / total,
            f"pronouns_per_100_words.{scope}": 100 * pronouns / total,
            f"loose_clauses_per_100_sentences.{scope}": 100 * loose / count,
            "flesch" if scope == "ui" else "flesch.docs": calculate_flesch(sentences),
        }
    notes = [text.text for text in texts if text.scope == "notes"]
    loose = sum(len(LOOSE_CLAUSE.findall(note)) for note in notes)
    figures["loose_clauses_per_100_notes"] = 100 * loose / max(1, len(notes))
    return figures


def measure_verbs(functions: Sequence[Function]) -> float:
    """Return the share of functions that start with no verb and end with no unit, %."""
    without = [
        node.name
        for _, node in functions
        if node.name.strip("_").partition("_")[0] not in VERBS
        and not UNIT_SUFFIX.search(node.name.strip("_"))
    ]
    return 100 * len(without) / max(1, len(functions))


def is_exceeded(name: str, figure: float) -> bool:
    """Return whether a figure breaks its limit.

    Args:
        name: Name of the figure.
        figure: Its value.
    """
    limit = LIMITS.get(name)
    if limit is None:
        return False
    return figure < limit if name.startswith("flesch") else figure > limit


def get_area(text: Text) -> str:
    """Return "product" for the package and the documents, "tests" for other names."""
    is_product = text.scope != "names" or text.file.startswith("wisearc/")
    return "product" if is_product else "tests"


def read_exceptions(path: Path = EXCEPTIONS) -> set[Exempt]:
    """Return the exceptions of a file with the sections [product] and [tests]."""
    exceptions: set[Exempt] = set()
    area = ""
    for line in path.read_text(encoding="utf-8").splitlines():
        if line.startswith("["):
            area = line.strip("[]")
        elif line.strip() and not line.startswith("#"):
            rule, _, words = line.partition(": ")
            exceptions.add((area, rule, words))
    return exceptions


def format_exceptions(matches: Iterable[Match]) -> str:
    """Return the content of an exceptions file that allows all matches."""
    rows = {(get_area(text), rule, text.text) for rule, text, _ in matches}
    return "".join(
        f"[{area}]\n"
        + "".join(f"{rule}: {words}\n" for key, rule, words in sorted(rows) if key == area)
        for area in ("product", "tests")
    )


def main(arguments: Sequence[str]) -> int:
    """Print each wrong wording, and return 1 if there is any.

    Args:
        arguments: Options of the command line.
    """
    gc.disable()  # Everything that it reads stays to the end.
    texts, functions = read_texts(ROOT), read_functions(ROOT)
    matches = [
        *find_matches(texts, read_fixed_keys(ROOT)),
        *find_function_matches(functions),
    ]
    if "--exceptions" in arguments:
        sys.stdout.write(format_exceptions(matches))
        return 0
    exceptions = read_exceptions()
    used = {(get_area(text), rule, text.text) for rule, text, _ in matches}
    wrong = [row for row in matches if (get_area(row[1]), row[0], row[1].text) not in exceptions]
    for rule, text, advice in wrong:
        sys.stdout.write(f"{text.file}:{text.line}: {rule}: {text.text} → {advice}\n")
    for _, rule, words in sorted(exceptions - used):
        sys.stdout.write(f"{EXCEPTIONS.name}: {rule}: {words} → remove, it matches nothing\n")
    figures = measure_texts(texts) | {"functions_without_verb_pct": measure_verbs(functions)}
    broken = [name for name, figure in figures.items() if is_exceeded(name, figure)]
    for name in sorted(figures) if "--figures" in arguments else broken:
        sys.stdout.write(f"{name}: {figures[name]:.1f}, limit {LIMITS.get(name, '—')}\n")
    return 1 if wrong or exceptions - used or broken else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
