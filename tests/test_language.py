"""The language check: each scope, each kind of rule, exceptions and limits."""

from __future__ import annotations

import ast
import io
import tempfile
import unittest
from contextlib import redirect_stdout
from pathlib import Path
from unittest import mock

from tools import language
from tools.language_rules import LIMITS, NAMES, PHRASES
from tools.language_texts import Text, list_files, read_functions, read_texts

# A wrong wording for each rule of phrases, and a name for each rule of names.
WRONG_PHRASES = {
    "reckon": "The current is reckoned.",
    "told": "The page tells the speed.",
    "say": "The plan says so.",
    "stands": "The value stands.",
    "taken": "The change was taken.",
    "take": "Take it now.",
    "take-in": "Taken in from a file.",
    "let-go": "Let it go.",
    "put-away": "Put it away.",
    "look": "Look through the list.",
    "write-down": "Write the run down.",
    "strike-out": "Strike it out.",
    "kept": "The draft is kept.",
    "came": "It comes to 5 mm.",
    "archaic": "Count from nought.",
    "to-be": "The part is to be welded.",
    "wants": "The joint wants a rod.",
    "bears": "The torch bears the current.",
    "mind": "Mind the edge.",
    "go-by": "The rule goes by thickness.",
    "pace": "The pace is too high.",
    "habit": "Shown in either habit.",
    "hand": "Two hands at once.",
    "school": "The other school.",
    "book": "The book is saved.",
    "shelf": "From the shelf.",
    "own-record": "The own record.",
    "bench-rule": "By the bench rule.",
    "by-hand": "A value set by hand.",
    "least-most": "The greatest of them.",
    "beside": "Laid beside the plan.",
    "of-its-own": "A page of its own.",
    "begin": "The run has begun.",
    "so": "Leave it as it is.",
    "speaks": "This speaks for heat.",
    "holds": "The rule does not hold.",
    "metaphor": "The gap drinks filler.",
    "zoom": "Nearer",
    "prove": "A good run proves the draft.",
    "fault": "A fault of the bead.",
    "bare-fit": "A bare-fit corner.",
    "the-lead's": "This is the lead's.",
    "qualified": "A WPS for the joint.",
}
WRONG_NAMES = {
    "reckon": "reckon_current",
    "told": "told_speed",
    "stands": "is_standing",
    "came": "came_in",
    "of-suffix": "run_of",
    "in-short": "change_words",
    "least-most": "least_gap",
    "anew": "run_again",
    "hand": "by_hand",
    "habit": "unit_habit",
    "school": "rod_school",
    "book": "open_book",
    "pace": "pace_mm_s",
    "mend": "mended_by",
    "let-go": "put_away",
    "whole": "is_whole",
    "seen": "what_seen",
    "odd-verb": "no_further",
    "question": "how_wide",
    "gerund": "keeping",
}


class Project(unittest.TestCase):
    """A project with files of a test."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)
        (self.root / "wisearc").mkdir()

    def write(self, name: str, content: str) -> None:
        path = self.root / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(content, encoding="utf-8")

    def texts(self, scope: str) -> list[str]:
        return [text.text for text in read_texts(self.root) if text.scope == scope]


class Texts(Project):
    def test_python(self) -> None:
        self.write(
            "wisearc/a.py",
            '"""A module."""\n\n\ndef weld(amps: float) -> str:\n    """Weld it.\n\n'
            '    >>> weld(3)\n    """\n    # A reason.\n    return f"Turn the dial to {amps} A."\n',
        )
        self.assertEqual(self.texts("ui"), ["Turn the dial to {} A."])
        self.assertEqual(self.texts("notes"), ["A module.", "Weld it.", "A reason."])
        self.assertEqual(self.texts("names"), ["weld", "amps"])

    def test_literals_of_tests_and_code_are_no_text_on_screen(self) -> None:
        self.write("tests/test_a.py", 'WORDS = "It was told so."\n')
        self.write("wisearc/b.py", 'QUERY = "SELECT id FROM book WHERE x"\n')
        self.assertEqual(self.texts("ui"), [])

    def test_template(self) -> None:
        self.write(
            "wisearc/web/page.html",
            "<h2>The set-up</h2>{# no text #}<p title='x' alt=\"A bead\">Weld <b>it</b> "
            "{{ speed }} now.</p><script>var told = 'no text here';</script>",
        )
        self.assertEqual(self.texts("ui"), ["The set-up", "A bead", "Weld it {} now."])

    def test_script_styles_tables_and_documents(self) -> None:
        self.write(
            "wisearc/a.js",
            '// A reason.\nfunction readIt() { say("Saved on disk."); say("Pace, " + mm); }\n',
        )
        self.write("wisearc/a.css", "/* The card. */\na { color: red; }\n")
        self.write("wisearc/a.toml", '# A comment.\ntext = "Clean {part} first."\n')
        self.write(
            "docs/a.md", "# Head\n\nA line\nand more.\n\n| one cell | two |\n```\ncode\n```\n"
        )
        self.assertEqual(self.texts("ui"), ["Saved on disk.", "Pace,", "Clean {} first."])
        self.assertEqual(self.texts("notes"), ["The card.", "A reason.", "A comment."])
        self.assertEqual(self.texts("docs"), ["Head", "A line and more.", "one cell", "two"])
        self.assertIn("read_it", self.texts("names"))

    def test_history_is_left_alone(self) -> None:
        self.write("wisearc/store/migrations/0001_a.py", '"""It was told."""\n')
        self.write("docs/language.md", "It was told.\n")
        self.assertEqual(list(list_files(self.root)), [])


class Matches(Project):
    def find(self, scope: str, words: str, kind: str = "") -> set[str]:
        text = Text(scope, "wisearc/a.py", 1, words, kind)
        return {rule for rule, _, _ in language.find_matches([text], {"told"})}

    def test_every_phrase(self) -> None:
        self.assertEqual(WRONG_PHRASES.keys(), {rule.name for rule in PHRASES})
        for rule, words in WRONG_PHRASES.items():
            for scope in ("ui", "docs", "notes"):
                with self.subTest(rule=rule, scope=scope):
                    self.assertIn(rule, self.find(scope, words))

    def test_every_name(self) -> None:
        self.assertEqual(WRONG_NAMES.keys(), {rule.name for rule in NAMES})
        for rule, name in WRONG_NAMES.items():
            with self.subTest(rule=rule):
                self.assertIn(rule, self.find("names", name, "function"))

    def test_plain_wording(self) -> None:
        for words in ("The travel speed is 3 mm/s.", "Weld along the edge.", "Clean the face."):
            self.assertEqual(self.find("ui", words), set(), words)
        self.assertEqual(self.find("names", "calculate_current_a", "function"), set())

    def test_names_that_a_format_fixes(self) -> None:
        self.assertEqual(self.find("names", "told", "field"), set())
        self.assertEqual(self.find("names", "told", "function"), {"told"})

    def test_headings(self) -> None:
        self.assertEqual(self.find("ui", "Which rod?", "heading"), {"heading"})
        self.assertEqual(self.find("ui", "Filler rod", "heading"), set())

    def test_functions(self) -> None:
        self.write(
            "wisearc/a.py",
            "def weld(one, two):\n    found = one\n    return found\n\n\n"
            'def cut(a, b):\n    """Cut.\n\n    Args:\n        a: First.\n    """\n\n\n'
            "def _hide(a, b):\n    pass\n",
        )
        matches = list(language.find_function_matches(read_functions(self.root)))
        self.assertEqual(
            [(rule, text.text) for rule, text, _ in matches],
            [("vague", "weld: found"), ("vague", "weld: one"), ("parameters", "weld")],
        )


class Figures(unittest.TestCase):
    def test_sentences_and_words(self) -> None:
        self.assertEqual(
            language.split_sentences("Use a no. 8 cup. Set {} A."), ["Use a no 8 cup.", "Set 10 A."]
        )
        self.assertEqual(language.split_words("1.6 mm, set-up"), ["1.6", "mm", "set-up"])
        self.assertEqual([language.count_syllables(w) for w in ("a", "torch", "argon")], [1, 1, 2])

    def test_reading_ease(self) -> None:
        """Six words of one syllable: 206.835 − 1.015 × 6 − 84.6 = 116.145, calculated manually."""
        self.assertAlmostEqual(language.calculate_flesch(["The cat sat on the mat."]), 116.145)

    def test_measures(self) -> None:
        texts = [
            Text("ui", "a", 1, "It is what is set, and that is so much of it: a lot."),
            Text("notes", "a", 1, "This shows what is set."),
            Text("notes", "a", 1, "A reason."),
        ]
        figures = language.measure_texts(texts)
        self.assertEqual(figures["words_per_sentence.ui"], 14)
        self.assertAlmostEqual(figures["clauses_per_100_words.ui"], 200 / 14)
        self.assertAlmostEqual(figures["pronouns_per_100_words.ui"], 500 / 14)
        self.assertEqual(figures["loose_clauses_per_100_sentences.ui"], 200)
        self.assertEqual(figures["loose_clauses_per_100_notes"], 50)
        long = [Text("ui", "a", 1, " ".join(["weld"] * count)) for count in (25, 26)]
        self.assertEqual(language.measure_texts(long)["long_sentences_pct.ui"], 50)

    def test_verbs(self) -> None:
        functions = [
            ("a", ast.parse(f"def {name}(): pass").body[0])
            for name in ("find_rod", "bore_mm", "_read", "colour")
        ]
        self.assertEqual(language.measure_verbs(functions), 25)

    def test_limits(self) -> None:
        self.assertFalse(language.is_exceeded("flesch", LIMITS["flesch"]))
        self.assertTrue(language.is_exceeded("flesch", LIMITS["flesch"] - 1))
        self.assertFalse(language.is_exceeded("functions_without_verb_pct", 16))
        self.assertTrue(language.is_exceeded("functions_without_verb_pct", 16.1))
        self.assertFalse(language.is_exceeded("flesch.docs", 0))


class Command(Project):
    def run_check(self, exceptions: str, *arguments: str) -> tuple[int, str]:
        path = self.root / "exceptions.txt"
        path.write_text(exceptions, encoding="utf-8")
        out = io.StringIO()
        with (
            mock.patch.object(language, "ROOT", self.root),
            mock.patch.object(language, "EXCEPTIONS", path),
            mock.patch.object(language.read_exceptions, "__defaults__", (path,)),
            redirect_stdout(out),
        ):
            code = language.main(arguments)
        return code, out.getvalue()

    def test_wrong_wording_and_its_exception(self) -> None:
        self.write("wisearc/a.py", '"""Find the pace."""\n')
        code, out = self.run_check("")
        self.assertEqual(code, 1)
        self.assertIn("wisearc/a.py:1: pace: Find the pace. → travel speed", out)
        self.assertEqual(self.run_check("[product]\npace: Find the pace.\n"), (0, ""))
        self.assertEqual(self.run_check("[tests]\npace: Find the pace.\n")[0], 1)

    def test_unused_exception(self) -> None:
        code, out = self.run_check("[product]\npace: Gone.\n")
        self.assertEqual(code, 1)
        self.assertIn("pace: Gone. → remove", out)

    def test_exceptions_are_printed_by_area(self) -> None:
        self.write("wisearc/a.py", "told = 1\n")
        self.write("tests/a.py", "found = 1\n")
        _, out = self.run_check("", "--exceptions")
        self.assertEqual(out, "[product]\ntold: told\n[tests]\nseen: found\n")
        self.assertEqual(self.run_check(out), (0, ""))

    def test_broken_limit(self) -> None:
        self.write("wisearc/a.toml", f'text = "{"weld the next seam " * 4}"\n')
        code, out = self.run_check("")
        self.assertEqual(code, 1)
        self.assertIn("words_per_sentence.ui: 16.0, limit 12.0", out)
        self.assertIn("flesch: ", self.run_check("", "--figures")[1])


if __name__ == "__main__":
    unittest.main()
