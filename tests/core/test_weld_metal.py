"""The weld metal: where the formulas hold, each element's weight, the shares it is reckoned at, and how it is said."""

import dataclasses
import unittest
from typing import Any

from wisearc.core import catalogue
from wisearc.core.chemistry import cr_eq, judge_analysis, martensite_reckoned, mix, ni_eq, pren, solidification_ratio
from wisearc.core.choices.filler import describe
from wisearc.core.choices.weld_metal import Reckoning, reckon
from wisearc.core.choices.weld_metal_words import reasons_of
from wisearc.core.section import section_of

from tests.core.rows import Rows, thick
from tests.samples import joint, member, plan

BASE = {"Cr": 17.0, "Ni": 9.0, "Mn": 1.5, "N": 0.05}


class Formulas(Rows):
    def test_where_they_hold(self) -> None:
        """Martensite start for 10 to 18 Cr and 6 to 12 Ni; ferrite from 10.5 Cr (EN 10088), not over 0.10 N or 3 Mn, nor under 4 Ni."""
        self.rows(
            *((martensite_reckoned({**BASE, **more}), holds) for more, holds in (
                ({"Cr": 10.0}, True), ({"Cr": 9.9}, False), ({"Cr": 18.0}, True), ({"Cr": 18.1}, False),
                ({"Ni": 6.0}, True), ({"Ni": 5.9}, False), ({"Ni": 12.0}, True), ({"Ni": 12.1}, False))),
            *((judge_analysis({**BASE, **more}, False).ferrite_pct is not None, holds) for more, holds in (
                ({}, True), ({"Cr": 10.4}, False), ({"Cr": 10.5}, True), ({"Cr": 11.0}, True), ({"Mn": 3.0}, True), ({"Mn": 3.1}, False),
                ({"N": 0.10}, True), ({"N": 0.105}, False), ({"Ni": 4.0}, True), ({"Ni": 3.9}, False))),
        )  # fmt: skip

    def test_by_element(self) -> None:
        """Schaeffler's Creq and Nieq; Cr + 3.3 Mo + 16 N; Hammar and Svensson's Cr′ and Ni′ on 18 Cr and 10 Ni."""
        for element, cr, ni, pitting, cr_prime, ni_prime in (
            ("Cr", 1, 0, 1, 1, 0), ("Mo", 1, 0, 3.3, 1.37, 0), ("Si", 1.5, 0, 0, 1.5, 0), ("Nb", 0.5, 0, 0, 2, 0), ("Ti", 0, 0, 0, 3, 0),
            ("Ni", 0, 1, 0, 0, 1), ("C", 0, 30, 0, 0, 22), ("Mn", 0, 0.5, 0, 0, 0.31), ("N", 0, 0, 16, 0, 14.2), ("Cu", 0, 0, 0, 0, 1),
        ):  # fmt: skip
            with self.subTest(element=element):
                got = cr_eq({element: 2.0}), ni_eq({element: 2.0}), pren({element: 2.0})
                self.assertEqual(got, (2 * cr, 2 * ni, 2 * pitting))
                more = {"Cr": 18.0, "Ni": 10.0, element: {"Cr": 18.0, "Ni": 10.0}.get(element, 0) + 0.5}
                self.assertAlmostEqual(solidification_ratio(more), (18 + cr_prime / 2) / (10 + ni_prime / 2), places=9)

    def test_mix(self) -> None:
        sheet = ({"Cr": 18.0}, {"Cr": 16.0})
        self.rows((mix(None, sheet, 0.4)["Cr"], 17.0), (mix({"Cr": 20.0}, sheet, 0.4)["Cr"], 18.8), (mix(None, sheet, 1.0, 0.3)["Cr"], 16.6))  # fmt: skip


class Reckoned(Rows):
    def test_shares(self) -> None:
        """Half and half; from a tenth of difference in thickness also 30/70 and 70/30."""
        for b, shares in (("2.5 mm", (0.5, 0.3, 0.7)), ("1.65 mm", (0.5,)), ("1.66 mm", (0.5, 0.3, 0.7))):
            made = joint("butt", member(), member("mild-steel", b))
            spread = reckon(made, section_of(made), None).spread
            self.rows((len(spread), len(shares)), *((m.chromium_pct, 18.2 * s) for m, s in zip(spread, shares, strict=False)))  # fmt: skip
            worst = "worst" in " ".join(r.sentence.text() for r in plan("butt", member(), member("mild-steel", b)).weld_metal.why)  # fmt: skip
            self.assertEqual(worst, len(shares) > 1)

    def test_not_reckoned(self) -> None:
        self.assertIsNone(plan("butt", member("2205")).weld_metal.ferrite_pct)
        rods = [plan(kind, filler=rod).weld_metal.rod_cr_eq for kind, rod in (("butt", "ERCuSi-A"), ("edge", "none"))]
        self.assertEqual(rods, [None, None])
        self.assertIsNotNone(plan("butt").weld_metal.rod_cr_eq)
        self.assertEqual(plan("edge", filler="none").weld_metal.dilution, 1.0)

    def test_a_rod_in_few_words(self) -> None:
        """Hard martensite from over 20 °C, as its caution."""
        metal = judge_analysis(BASE, False)
        for start, hard in ((20.0, False), (20.5, True)):
            reckoned = Reckoning(0.5, dataclasses.replace(metal, martensite_start_c=start), ())
            self.assertEqual("hard martensite" in describe(reckoned, ()), hard)

    def test_words(self) -> None:
        """Sound ferrite 3 to 15 %; hard over 20 °C, far below under −40; freezes by 1.5 and 2; stainless from 10.5 %."""
        made, base = joint(), judge_analysis({**BASE, "Cr": 18.0}, False)

        def words(**more: Any) -> str:
            found = reasons_of(made, None, dataclasses.replace(base, **more), 1.0, False)
            return " ".join(r.sentence.text() for r in found)

        for key, turns in {
            "ferrite_pct": ((2.9, "under the sound 3 %"), (3.0, "within the sound"), (15.0, "within the sound"), (15.1, "above 15 %")),
            "martensite_start_c": ((20.0, "near room"), (20.5, "hard"), (-40.0, "near room"), (-41.0, "well below")),
            "solidification_ratio": ((1.49, "hot cracking"), (1.5, "ferrite first, sound"), (2.0, "ferrite first, sound"), (2.1, "wholly ferrite")),
        }.items():  # fmt: skip
            self.rows(*((text in words(**{key: value}), True) for value, text in turns))
        self.rows(*(("it is not stainless" in words(chromium_pct=cr), bad) for cr, bad in ((10.4, True), (10.5, False), (11.0, False))))  # fmt: skip
        self.assertEqual(reasons_of(joint("butt", thick(1, "mild-steel")), None, base, 1.0, False), [])
        self.assertEqual(reasons_of(made, catalogue.rods()["ERCuSi-A"], base, 1.0, False), [])


if __name__ == "__main__":
    unittest.main()
