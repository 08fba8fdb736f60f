"""The comparison with approved results."""

from __future__ import annotations

import unittest
from unittest.mock import patch

from wisearc.core.quantities import length
from wisearc.core.reasons import Sentence

from .approval import ApprovedCase, flatten, list_changes


class Sample(ApprovedCase):
    name = "sample"

    @classmethod
    def calculate(cls, case: dict[str, float]) -> dict[str, float]:
        return {"sum": case["a"] + case["b"]}


class Comparison(unittest.TestCase):
    def test_numbers_of_a_sentence(self) -> None:
        sentence = Sentence("Gap of {g} in {n} places.", g=length(1.27), n=3)
        self.assertEqual(flatten({"why": sentence}), {".why": "1.27 3 0.05 3"})
        self.assertEqual(flatten(["a b 1", "ER308L"]), {".count": 2, ".0": "1", ".1": "ER308L"})

    def test_differences(self) -> None:
        old = {".a": 1.0, ".b": "x", ".c": None}
        for new, count in (
            (old, 0),
            ({**old, ".a": 1.0 + 1e-8}, 0),
            ({**old, ".a": 1.00001}, 1),
            ({**old, ".b": "y"}, 1),
            ({".a": 1.0, ".b": "x"}, 1),
            ({**old, ".d": 0}, 1),
        ):
            with self.subTest(new=new):
                self.assertEqual(len([*list_changes(old, new)]), count)

    def test_check_fails_on_a_change_and_without_cases(self) -> None:
        case = {"a": 1, "b": 2}
        with patch.object(Sample, "read", return_value=[(case, {".sum": 3})]):
            Sample("check").check()
        for cases in ([(case, {".sum": 4})], []):
            with (
                self.subTest(cases=cases),
                patch.object(Sample, "read", return_value=cases),
                self.assertRaises(AssertionError),
            ):
                Sample("check").check()


if __name__ == "__main__":
    unittest.main()
