"""Rules as rows of result and expected value.

Expected values follow from the rules of the trade (common practice and estimates; no source unless
a test names one), never from running the rule. A deliberate change of a rule changes its row.
"""

from __future__ import annotations

import unittest
from typing import Any

from tests.samples import member
from wisearc.core.plan.plan import Plan

ROUND = {"length": "all-round"}
STEEL = member("mild-steel")


class Rows(unittest.TestCase):
    """A number with a fraction is met within 0.3 % (figures are rounded), anything else exactly."""

    def rows(self, *rows: tuple[Any, Any]) -> None:
        for i, (got, expected) in enumerate(rows):
            with self.subTest(row=i, expected=expected):
                if isinstance(expected, float):
                    self.assertAlmostEqual(got, expected, delta=max(1e-6, abs(expected) * 3e-3))
                else:
                    self.assertEqual(got, expected)


def thick(t: float, metal: str = "304L") -> dict[str, Any]:
    """A sheet of a thickness, mm."""
    return member(metal, f"{t} mm")


def list_sets(p: Plan, part: str, key: str = "") -> list[Any]:
    """Return the sets of the alternatives of a part; of one key, its values."""
    sets = [o.sets for o in getattr(p, part).others]
    return [s[key] for s in sets if key in s] if key else sets


def said(p: Plan, *parts: str) -> str:
    """All reasons of the parts, or of every part with the cautions, as one text.

    Formulas and numbers put in too.
    """
    found = [r for choice in p.choices if not parts or choice.part in parts for r in choice.why]
    texts = [
        f"{r.sentence.text()} {r.formula} {r.worked.text() if r.worked else ''}" for r in found
    ]
    return " ".join([*texts, *([] if parts else (c.sentence.text() for c in p.cautions))])
