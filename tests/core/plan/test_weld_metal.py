"""The weld metal: validity of the formulas, weight of each element, judged shares, and texts."""

import unittest
from typing import Any

from msgspec.structs import replace

from tests.core.rows import Rows, thick
from tests.samples import joint, member, plan
from wisearc.core import catalogue
from wisearc.core.joint.section import build_section
from wisearc.core.physics.chemistry import (
    calculate_cr_eq,
    calculate_ferrite_factor,
    calculate_ni_eq,
    calculate_pren,
    calculate_solidification_ratio,
    find_phases,
    get_austenite_limit,
    get_martensite_margin,
    has_martensite_start,
    is_fully_ferritic,
    judge_analysis,
    mix_weld_metal,
)
from wisearc.core.plan.filler_metal.feeding import Feed, Limits, find_limits, is_acceptable_metal
from wisearc.core.plan.filler_metal.filler import describe
from wisearc.core.plan.filler_metal.weld_metal import (
    DilutionEstimate,
    calculate_dilution_limits,
    explain_weld_metal,
)

BASE = {"Cr": 17.0, "Ni": 9.0, "Mn": 1.5, "N": 0.05}


class Formulas(Rows):
    def test_where_they_hold(self) -> None:
        """Martensite start for 10 to 18 Cr and 6 to 12 Ni.

        Ferrite from 10.5 Cr (EN 10088), up to 0.10 N or 3 Mn, and from 4 Ni.
        """
        self.rows(
            *(
                (has_martensite_start({**BASE, **more}), holds)
                for more, holds in (
                    ({"Cr": 10.0}, True),
                    ({"Cr": 9.9}, False),
                    ({"Cr": 18.0}, True),
                    ({"Cr": 18.1}, False),
                    ({"Ni": 6.0}, True),
                    ({"Ni": 5.9}, False),
                    ({"Ni": 12.0}, True),
                    ({"Ni": 12.1}, False),
                )
            ),
            *(
                (judge_analysis({**BASE, **more}).ferrite_pct is not None, holds)
                for more, holds in (
                    ({}, True),
                    ({"Cr": 10.4}, False),
                    ({"Cr": 10.5}, True),
                    ({"Cr": 11.0}, True),
                    ({"Mn": 3.0}, True),
                    ({"Mn": 3.1}, False),
                    ({"N": 0.10}, True),
                    ({"N": 0.105}, False),
                    ({"Ni": 4.0}, True),
                    ({"Ni": 3.9}, False),
                )
            ),
        )

    def test_by_element(self) -> None:
        """Schaeffler's Creq and Nieq; Cr + 3.3 Mo + 16 N.

        Hammar and Svensson's Cr′ and Ni′ on 18 Cr and 10 Ni.
        """
        for element, cr, ni, pitting, cr_prime, ni_prime in (
            ("Cr", 1, 0, 1, 1, 0),
            ("Mo", 1, 0, 3.3, 1.37, 0),
            ("Si", 1.5, 0, 0, 1.5, 0),
            ("Nb", 0.5, 0, 0, 2, 0),
            ("Ti", 0, 0, 0, 3, 0),
            ("Ni", 0, 1, 0, 0, 1),
            ("C", 0, 30, 0, 0, 22),
            ("Mn", 0, 0.5, 0, 0, 0.31),
            ("N", 0, 0, 16, 0, 14.2),
            ("Cu", 0, 0, 0, 0, 1),
        ):
            with self.subTest(element=element):
                got = (
                    calculate_cr_eq({element: 2.0}),
                    calculate_ni_eq({element: 2.0}),
                    calculate_pren({element: 2.0}),
                )
                self.assertEqual(got, (2 * cr, 2 * ni, 2 * pitting))
                more = {
                    "Cr": 18.0,
                    "Ni": 10.0,
                    element: {"Cr": 18.0, "Ni": 10.0}.get(element, 0) + 0.5,
                }
                self.assertAlmostEqual(
                    calculate_solidification_ratio(more),
                    (18 + cr_prime / 2) / (10 + ni_prime / 2),
                    places=9,
                )

    def test_mix(self) -> None:
        sheet = ({"Cr": 18.0}, {"Cr": 16.0})
        self.rows(
            (mix_weld_metal(None, sheet, 0.4)["Cr"], 17.0),
            (mix_weld_metal({"Cr": 20.0}, sheet, 0.4)["Cr"], 18.8),
            (mix_weld_metal(None, sheet, 1.0, 0.3)["Cr"], 16.6),
        )


class Calculated(Rows):
    def test_shares(self) -> None:
        """Half and half at equal thickness, smoothly to 30/70 of stainless and steel at 5 to 4.

        Steel the thicker side: 70 parts of 100 are steel in the design case. With stainless the
        thicker side, both are judged. One metal needs no shares.
        """
        for a, b, shares in (
            ("1.5 mm", "1.5 mm", (0.5,)),
            ("1.5 mm", "1.65 mm", (0.42, 0.5)),
            ("1.5 mm", "1.875 mm", (0.3, 0.5)),
            ("1.5 mm", "4 mm", (0.3, 0.5)),
            ("1.65 mm", "1.5 mm", (0.5, 0.42, 0.58)),
            ("3 mm", "1.5 mm", (0.5, 0.3, 0.7)),
        ):
            made = joint("butt", member("304L", a), member("mild-steel", b))
            spread = calculate_dilution_limits(made, build_section(made), None).spread
            self.rows(
                (len(spread), len(shares)),
                *((m.chromium_pct, 18.2 * s) for m, s in zip(spread, shares, strict=False)),
            )
            worst = "worst" in " ".join(
                r.sentence.text()
                for r in plan("butt", member("304L", a), member("mild-steel", b)).weld_metal.why
            )
            self.assertEqual(worst, len(shares) > 1)
        made = joint("butt", member(), member("304", "3 mm"))
        self.rows((len(calculate_dilution_limits(made, build_section(made), None).spread), 1))

    def test_not_calculated(self) -> None:
        self.assertIsNone(plan("butt", member("2205")).weld_metal.ferrite_pct)
        rods = [
            plan(kind, filler=rod).weld_metal.rod_cr_eq
            for kind, rod in (("butt", "ERCuSi-A"), ("edge", "none"))
        ]
        self.assertEqual(rods, [None, None])
        self.assertIsNotNone(plan("butt").weld_metal.rod_cr_eq)
        self.assertEqual(plan("edge", filler="none").weld_metal.dilution, 1.0)

    def test_short_description_of_a_rod(self) -> None:
        """Hard martensite from over 20 °C, as its caution."""
        metal = judge_analysis(BASE)
        for start, hard in ((20.0, False), (20.5, True)):
            calculated = DilutionEstimate(
                replace(metal, martensite_start_c=start),
                (),
                Feed(1.0, 0.5, None, 1.0),
                Limits(None, None, None),
            )
            self.assertEqual("hard martensite" in describe(calculated, ()), hard)

    def test_texts(self) -> None:
        """Sound ferrite 3 to 15 %; hard over 20 °C, far below under −40; freezes by 1.5 and 2.

        Stainless from 10.5 %.
        """
        made, base, none = joint(), judge_analysis({**BASE, "Cr": 18.0}), Limits(None, None, None)

        def words(**more: Any) -> str:
            found = explain_weld_metal(made, None, replace(base, **more), 1.0, none, False)
            return " ".join(r.sentence.text() for r in found)

        for key, turns in {
            "ferrite_pct": (
                (2.9, "below the minimum of 3 %"),
                (3.0, "within 3 to"),
                (15.0, "within 3 to"),
                (15.1, "above 15 %"),
            ),
            "martensite_start_c": (
                (20.0, "near room"),
                (20.5, "hard"),
                (-40.0, "near room"),
                (-41.0, "well below"),
            ),
            "solidification_ratio": (
                (1.49, "hot cracking"),
                (1.5, "ferrite first, sound"),
                (2.0, "ferrite first, sound"),
                (2.1, "ferrite only"),
            ),
        }.items():
            self.rows(*((text in words(**{key: value}), True) for value, text in turns))
        self.rows(
            *(
                ("the metal is not stainless" in words(chromium_pct=cr), bad)
                for cr, bad in ((10.4, True), (10.5, False), (11.0, False))
            )
        )
        self.assertEqual(
            explain_weld_metal(joint("butt", thick(1, "mild-steel")), None, base, 1.0, none, False),
            [],
        )
        self.assertEqual(
            explain_weld_metal(made, catalogue.load_rods()["ERCuSi-A"], base, 1.0, none, False), []
        )


class Regions(Rows):
    """Where the formulas end.

    Schaeffler's regions and Kaltenhauser's factor, from memory; each line worked at a point of it.
    """

    def at(self, cr: float, ni: float) -> str:
        return find_phases({"Cr": cr, "Ni": ni})

    def test_lines(self) -> None:
        """Austenite's edge 25 − 0.8 Creq to 17, on to (21, 8); M/(A+M) from (0, 18) to (14, 8).

        M/(M+F) from (7.5, 0) to (14, 8); (M+F)/F from (13, 0) to (21, 6.5).
        """
        self.rows(
            (get_austenite_limit(10), 17.0),
            (get_austenite_limit(17), 11.4),
            (get_austenite_limit(19), 9.7),
            (get_austenite_limit(21), 8.0),
            (self.at(10, 17.1), "austenite"),
            (self.at(10, 16.9), "austenite and martensite"),
            (self.at(7, 13.1), "austenite and martensite"),
            (self.at(7, 12.9), "martensite"),
            (self.at(9.9, 3.0), "martensite"),
            (self.at(10.0, 3.0), "martensite and ferrite"),
            (self.at(10.0, 3.2), "martensite"),
            (self.at(17, 3.3), "martensite and ferrite"),
            (self.at(17, 3.2), "ferrite"),
            (self.at(12.9, 0.0), "martensite and ferrite"),
            (self.at(16, 9.0), "austenite, martensite and ferrite"),
            (self.at(19, 9.8), "austenite and ferrite"),
            # (A+M)/(M+F) from (14, 8) to (21, 6.5): 7.25 at 17.5
            (self.at(17.5, 7.3), "austenite, martensite and ferrite"),
            (self.at(17.5, 7.2), "martensite and ferrite"),
            # on past 21 at a slope of 0.35: 7.55 at 24
            (self.at(24, 7.6), "austenite and ferrite"),
            (self.at(24, 7.5), "ferrite"),
        )
        self.rows(
            (get_martensite_margin({"Cr": 17.0, "Ni": 12.4}), 1.0),
            (get_martensite_margin({"Cr": 16.0, "Ni": 6.0}), 6.5 * 3 / 8 - 6.0),
        )

    def test_ferritic_sheet(self) -> None:
        """439.

        17.5 + 2.4 + 2.8 − 0.8 − 0.8 − 1.2 = 19.9; 430: 16.4 + 2.4 − 1 − 0.8 − 3.2 = 13.8
        (martensite); 409: 11.2 + 2.4 + 1.6 − 0.8 − 0.8 − 0.8 = 12.8, under 13.6; over 13.5 at 11 %,
        17 at 17 %.
        """
        f = {
            k: calculate_ferrite_factor(catalogue.load_metals()[k].analysis)
            for k in ("409", "430", "439")
        }
        self.rows(
            (round(f["439"], 1), 19.9), (round(f["430"], 1), 13.8), (round(f["409"], 1), 12.8)
        )
        for cr, si, wholly in (
            (11.0, 0.42, True),
            (11.0, 0.41, False),
            (17.0, 0.01, True),
            (17.0, -0.01, False),
            (14.0, 0.22, True),
            (14.0, 0.2, False),
        ):
            self.assertEqual(is_fully_ferritic({"Cr": cr, "Si": si}), wholly, (cr, si))

    def test_phases_by_the_diagram_from_one_percent_nickel(self) -> None:
        """Kaltenhauser's factor decides below 1 % nickel, the diagram from 1 %.

        At Cr 16 the factor is 12.2 with a limit of 16.4; the diagram shows ferrite below Ni 2.4.
        """
        for ni, region in ((0.95, "martensite and ferrite"), (1.05, "ferrite")):
            metal = judge_analysis({"Cr": 16.0, "Ni": ni})
            self.assertEqual((metal.ferrite_pct, metal.region), (None, region), ni)

    def test_autogenous_ferritic_weld_gets_its_caution(self) -> None:
        """439 fully ferritic; 409 low in carbon tolerates a little soft martensite: a note.

        430 is hard: a caution.
        """
        for metal, region, level in (
            ("439", "ferrite", ""),
            ("409", "martensite and ferrite", "note"),
            ("430", "martensite and ferrite", "caution"),
        ):
            p = plan("butt", member(metal), filler="none")
            with self.subTest(metal=metal):
                self.assertEqual((p.weld_metal.ferrite_pct, p.weld_metal.region), (None, region))
                self.assertEqual(
                    {c.level for c in p.cautions if c.code == "martensite"}, {level} - {""}
                )
                self.assertEqual(
                    p.weld_metal.state,
                    {
                        "": "",
                        "note": "some soft martensite, normal here",
                        "caution": "martensite and ferrite in the weld",
                    }[level],
                )

    def test_braze_and_carbon_steel_have_no_state_of_stainless(self) -> None:
        for a, b, rod, state in (
            ("304L", "304L", "ERCuSi-A", ""),
            ("mild-steel", "mild-steel", "auto", ""),
            ("304L", "mild-steel", "ER70S-2", "weld 4.0 % chromium: not stainless"),
        ):
            with self.subTest(a=a, rod=rod):
                made = plan("lap", member(a), member(b), filler=rod)
                self.assertEqual(made.weld_metal.state, state)

    def test_soft_martensite_by_members(self) -> None:
        """As `holds` of each mixture, searched in steps of 0.1 %."""
        for a, b, rod, soft in (
            ("409", "409", "ER309L", True),
            ("439", "304L", "ER308L", True),
            ("409", "mild-steel", "ER309L", False),
        ):
            made, row = joint("butt", member(a), member(b)), catalogue.load_rods()[rod]
            sheets = tuple(made.analyses[:2])
            mixed = (mix_weld_metal(row.analysis, sheets, i / 1000, 0.5) for i in range(1001))
            broken = (
                i / 1000
                for i, metal in enumerate(mixed)
                if not is_acceptable_metal(metal, True, soft)
            )
            self.assertAlmostEqual(
                find_limits(made, build_section(made), row).even, next(broken, 1.0), delta=0.001
            )

    def test_a_little_soft_martensite(self) -> None:
        """Low-carbon ferritic sheet, 0.03 % maximum, tolerates it; nothing else does."""
        hard = {"Cr": 14.0, "Ni": 4.0, "Mn": 1.0}
        self.rows(
            *(
                (is_acceptable_metal({**hard, "C": c}, True, soft), sound)
                for c, soft, sound in (
                    (0.03, True, True),
                    (0.031, True, False),
                    (0.03, False, False),
                )
            )
        )
        self.assertFalse(is_acceptable_metal({"Cr": 10.4, "C": 0.01}, False, True))

    def test_by_design(self) -> None:
        for metal, rod, words in (
            ("17-4PH", "ER630", "martensite by design"),
            ("2205", "ER2209", "half ferrite by design"),
            ("310S", "ERNiCr-3", "nickel weld metal stays austenitic"),
        ):
            w = plan("butt", member(metal), filler=rod).weld_metal
            self.assertIsNone(w.ferrite_pct)
            self.assertIn(words, " ".join(w.not_reckoned))


if __name__ == "__main__":
    unittest.main()
