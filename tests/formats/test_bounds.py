"""Input is limited before parsing: digits, depth, parts, single surrogates; quotes are short."""

import contextlib
import io
import json
import signal
import tempfile
import unittest
from pathlib import Path

from tests.samples import run
from wisearc.cli import main
from wisearc.core import catalogue
from wisearc.core.errors import InputError, UnknownName, shorten
from wisearc.core.joint.rules import MAX_TACKS
from wisearc.core.run.run import ARC_FIGURES, MAX_RUNS, MAX_RUNS_BYTES, Purge, Run, run_figures
from wisearc.core.schema.entries import read_entries
from wisearc.core.typed_quantities import parse_flow, parse_length, parse_quantity, parse_speed
from wisearc.formats.joint_json import MAX_BYTES, MAX_PARTS, load_json
from wisearc.formats.link import MAX_PAIRS, read_link
from wisearc.formats.run_json import measure_size


class Loads(unittest.TestCase):
    def test_refused_with_a_sentence(self) -> None:
        for text, words in (
            ("NaN", "not a JSON number"),
            ("-Infinity", "not a JSON number"),
            ("[1e400]", "not a JSON number"),
            ("[" + "1" * 19 + "]", "more than 18 digits"),
            ("[" + "1" * 5000 + "]", "more than 18 digits"),
            ("[" * 100_000, "nested too deep|more than"),
            ("[" * 50_000, "nested too deep"),
            ("[" + "[]," * (MAX_PARTS // 2) + "1]", f"more than {MAX_PARTS} values"),
            ("[" + "1," * MAX_PARTS + "1]", f"more than {MAX_PARTS} values"),
            ("[" + '"",' * MAX_PARTS + "1]", f"more than {MAX_PARTS} values"),
            ('["' + r"\"[" * 400_000, "not JSON"),
            ('["' + r"\"[" * 400_000 + "\\", "not JSON"),
            ('"' + "x" * MAX_BYTES + '"', "exceeds 4 MB"),
            ('{"a": 1, "b": 2, "a": 3}', "a appears twice"),
            ('{"a": [{"b": 1, "b": 1}]}', "b appears twice"),
            (r'"\ud800"', "half of a character"),
            (r'{"\uDFFF": 1}', "half of a character"),
            ("{", "line 1, column 2"),
        ):
            with self.subTest(text=text[:30]), self.assertRaisesRegex(InputError, words) as caught:
                load_json(text)
            self.assertLess(len(str(caught.exception)), 300)

    def test_a_key_given_twice_among_very_many(self) -> None:
        keys = ",".join(f'"{i}":1' for i in range(190_000))
        with self.assertRaisesRegex(InputError, "189999 appears twice"):
            load_json("{" + keys + ',"189999":1}')

    def test_valid_files_are_parsed(self) -> None:
        for value in (10**17, -(10**17), 1e308, "\U0001f600", {"a": [1, 2.5, None, True]}):
            self.assertEqual(load_json(json.dumps(value)), value)
        self.assertEqual(load_json(r'"\ud83d\ude00"'), "\U0001f600")
        self.assertEqual(len(load_json("[" + "1," * (MAX_PARTS - 2) + "1]")), MAX_PARTS - 1)

    def test_as_many_runs_as_one_revision_holds(self) -> None:
        """Every key is filled, with photographs, which give the most content in the least space.

        Notes are full of symbols.
        """
        figures = run_figures()
        pictures = [{"file": "a", "sha256": "0" * 64}] * 6
        full = run(
            good=False,
            set=dict.fromkeys(figures["set"], 1),
            measured=dict.fromkeys(figures["measured"], 1),
            faults=list(catalogue.load_flaws()),
            photographs=pictures,
        )
        full |= {
            "format": "wisearc/run",
            "version": 1,
            "minor": 1,
            "machine": "",
            "notes": "",
            "kept": "",
            "voided": None,
            "purge": {
                **dict.fromkeys([k for k in read_entries(Purge) if k != "held"], 1),
                "held": True,
            },
            "arc": {**dict.fromkeys(ARC_FIGURES, 1), "by": "log"},
            "arc_log": {"file": "log.csv", "sha256": "0" * 64},
            "left_band": (
                [{"what": "peak_a", "start_s": 1, "end_s": 2, "worst": 3, "low": 4, "high": None}]
                * 20
            ),
            "as_done": True,
            "look": "even",
            "coupon": {
                "label": "bar",
                "bend": "sheet",
                "hammer": "held",
                "rust": {"test": "kitchen", "minutes": 9, "shows": False},
            },
            "seen": {
                "faults": ["cold", "hole"],
                "front_tint": "straw",
                "where": {"cold": [0.1, 0.9]},
                "told": {"draught": True, "dirty": False},
            },
            "reading": {
                "verdict": "not-good",
                "why": "Hole.",
                "causes": [],
                "change": {"code": "refit", "key": "fit", "text": "Refit: gap 1 mm → 0.15 mm"},
            },
            "repairs": [{"flaw": "hole", "when": "2026-03-05", "who": "R.T.", "result": "sound"}],
            "joint": {},
            "voided_by": None,
            "procedure": "",
            "revision": "",
        }
        self.assertEqual(set(read_entries(Run)) - set(full), set())
        short = {
            **full,
            "left_band": [],
            "arc": None,
            "coupon": None,
            "seen": None,
            "reading": None,
        }
        for one, notes in ((short, ""), (full, ""), (full, ",[{" * 1300)):
            full = {**one, "notes": notes}
            count = min(MAX_RUNS, MAX_RUNS_BYTES // measure_size(full))
            data = {"runs": [full] * count, "plan": {"positions": [1.5] * 2 * MAX_TACKS}}
            self.assertEqual(
                len(load_json(json.dumps(data, ensure_ascii=False, separators=(",", ":")))["runs"]),
                count,
            )


class Quoted(unittest.TestCase):
    def test_never_longer_than_a_line(self) -> None:
        for value in (
            "x" * 10**6,
            {"x": 1},
            [1] * 10**5,
            10**4000,
            -(10**400),
            "a\nb\x00c",
            None,
            True,
        ):
            for error in (
                InputError("x" * 10**5, value, "must not be"),
                UnknownName("name", value, ["one", "two"]),
            ):
                self.assertLess(len(str(error)), 260)
                self.assertTrue(str(error).isprintable())
        self.assertEqual(shorten("x" * 60), "x" * 60)

    def test_similar_names_are_not_suggested_for_large_inputs(self) -> None:
        UnknownName("metal", "304L " * 200_000, ["304L"] * 50)
        self.assertEqual(UnknownName("metal", "304l", ["304", "304L"]).nearest, "304L")


class Typed(unittest.TestCase):
    WRONG = (
        "nan",
        "NaN",
        "inf",
        "-inf",
        "Infinity",
        "1e400",
        "1_000",
        "0x10",
        "1/" + "9" * 5000,
        "1" * 5000,
        "9" * 60 + "/3",
        "1/0",
        "\u0661\u0662",
        "\uff11",
        "\x00",
        "1 mm\x00",
        "1\ud800",
        "--1",
        "",
        "1..2",
        "+",
        "²",
        "½",
    )

    def test_each_is_refused(self) -> None:
        for text in self.WRONG:
            for read in (
                lambda text: parse_length(text),
                lambda text: parse_flow(text),
                lambda text: parse_speed(text),
                lambda text: parse_quantity(text, "seconds", "time"),
                lambda text: parse_quantity(text, "length", "length", "in"),
            ):
                with self.subTest(text=text[:20]), self.assertRaises(InputError):
                    read(text)

    def test_user_input_is_parsed(self) -> None:
        for text, value in (
            ("12", 12),
            ("0,5", 0.5),
            (".5", 0.5),
            ("5.", 5),
            ("−3", -3),
            ("+2", 2),
            (" 7 ", 7),
        ):
            self.assertEqual(parse_quantity(text, "seconds", "time"), value)
        self.assertEqual(parse_length("1/" + "1" * 50).mm, 0)


class Links(unittest.TestCase):
    def test_word_limit(self) -> None:
        joint, problems = read_link(
            [("joint", "tee"), *[("gap", "0.1 mm")] * (MAX_PAIRS + 50), ("joint", "butt")]
        )
        self.assertEqual(joint.kind.key, "tee")
        self.assertIn(f"those after the first {MAX_PAIRS} were ignored", problems[0].sentence)
        self.assertEqual(read_link([("joint", "tee"), ("gap", "0.1 mm")])[1], [])

    def test_pins_that_are_no_numbers(self) -> None:
        for text in ("nan", "inf", "1e400", "9" * 5000):
            for pin in ("cup", "flow_l_min", "tack_pitch_mm", "tungsten_mm"):
                _, problems = read_link([("joint", "tee"), (f"pins.{pin}", text)])
                with self.subTest(pin=pin, text=text[:9]):
                    self.assertEqual([p.key for p in problems], [f"pins.{pin}"])
                    self.assertLess(len(problems[0].sentence), 300)

    def test_tacks_without_end(self) -> None:
        link = [("joint", "butt"), ("length", "20000 mm"), ("pins.tack_pitch_mm", "3 mm")]
        joint, problems = read_link(link)
        self.assertIn(
            "gives more than 2000 tacks on 20000 mm of seam. Enter at least 11 mm",
            problems[0].sentence,
        )
        self.assertNotIn("tack_pitch_mm", joint.pins)
        self.assertEqual(read_link([*link[:2], ("pins.tack_pitch_mm", "11 mm")])[1], [])


class Command(unittest.TestCase):
    def test_a_file_without_end(self) -> None:
        for name in ("/dev/zero", "/dev/urandom"):
            said, before = io.StringIO(), signal.getsignal(signal.SIGTERM)
            with contextlib.redirect_stderr(said):
                self.assertEqual(main(["plan", name]), 2)
            self.assertIn("exceeds 4 MB. Give a smaller joint file", said.getvalue())
            self.assertIs(signal.getsignal(signal.SIGTERM), before)

    def test_files_of_every_kind(self) -> None:
        for data in (
            b"",
            b"\xff",
            b"[" * 99_999,
            b"1" * 9999,
            b"{}",
            b"null",
            b'"\\ud800"',
            b'{"format": "wisearc/joint", "version": 1e400}',
            b"\xef\xbb\xbf{}",
        ):
            with (
                tempfile.TemporaryDirectory() as folder,
                contextlib.redirect_stderr(io.StringIO()) as said,
            ):
                path = Path(folder) / "joint.json"
                path.write_bytes(data)
                with self.subTest(data=data[:20]):
                    self.assertEqual(main(["plan", str(path)]), 2)
                    self.assertEqual(said.getvalue().count("\n"), 1)
        with contextlib.redirect_stderr(io.StringIO()) as said:
            self.assertEqual(main(["plan", "a\x00b"]), 2)


if __name__ == "__main__":
    unittest.main()
