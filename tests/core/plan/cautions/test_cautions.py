"""Every caution of the plan.

A joint that causes it, and one just inside its threshold that does not. The thresholds are those of
the handbook rules (common practice, no source, unless a row states one), entered manually; none
comes from the product.
"""

import unittest
from typing import Any

from tests.samples import codes, joint, member, plan
from tools.documents import CORE, list_caution_codes
from wisearc.core import catalogue
from wisearc.core.joint.data import make_joint
from wisearc.core.joint.section import build_section
from wisearc.core.physics.chemistry import WeldMetal
from wisearc.core.plan.filler_metal import weld_metal_cautions
from wisearc.core.plan.filler_metal.feeding import Feed, Limits
from wisearc.core.plan.filler_metal.weld_metal import DilutionEstimate
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import (
    ASSUMED,
)

from . import arc, filler_metal, preparation, shielding, torch
from .joints import (
    pins,
)

TABLE = (*arc.ROWS, *filler_metal.ROWS, *preparation.ROWS, *shielding.ROWS, *torch.ROWS)
# Cautions of every joint, or of every tube: no joint of that kind lacks them.
ALWAYS = {"cleaner", "hot-metal", "light", "sealed-section"}


def found(kind: str, data: dict[str, Any]) -> set[tuple[str, str, str]]:
    """Code, level and answer of every caution of a joint."""
    given = dict(data)
    if given.pop("third", False):
        made = make_plan(make_joint({"joint": kind, "members": [member()] * 3, **given}), ASSUMED)
    else:
        made = plan(kind, **given)
    return {(c.code, c.level, c.at) for c in made.cautions}


def in_source(apart: str = "") -> set[tuple[str, str]]:
    """Return the code and level of every caution of the core.

    Args:
        apart: "jobs" or "diagnosis" for their own cautions; "" for those of a plan.
    """
    others = {"jobs", "diagnosis"}
    folders = [apart] if apart else [p.name for p in CORE.iterdir() if p.name not in others]
    codes = list_caution_codes(folders)
    return {(code, level) for code, levels in codes.items() for level in levels}


class Table(unittest.TestCase):
    def test_each_just_outside_and_just_inside(self) -> None:
        for code, level, at, kind, outside, inside in TABLE:
            with self.subTest(code=code, level=level, outside=outside):
                self.assertIn((code, level, at), found(kind, outside))
            if code not in ALWAYS:
                with self.subTest(code=code, level=level, inside=inside):
                    self.assertNotIn((code, level, at), found(kind, inside))

    def test_no_tube_nothing_sealed(self) -> None:
        self.assertNotIn("sealed-section", codes(plan("butt")))

    def test_every_code_and_level_of_the_source_stands_in_the_table(self) -> None:
        self.assertEqual({(code, level) for code, level, *_ in TABLE}, in_source())

    def test_every_caution_has_its_place_in_the_formats_list(self) -> None:
        """The codes in docs/reference/formats.md are all tested.

        The exception is `out-of-range` of other joints.
        """
        named = (
            "weld-metal-not-stainless martensite hot-cracking no-ferrite pitting-below-base"
            " duplex-needs-filler no-filler-dissimilar gap-too-wide gas-turbulent gas-too-slow"
            " stickout-caution stickout-too-long back-bare pulse-flicker out-of-range"
            " copper-penetration thoria fume closed-space-argon carbon-rod not-reckoned coating"
            " chill-on-duplex torch-overrun background-too-low peak-too-high unweldable-303"
            " sealed-vessel hot-part"
        )
        self.assertLessEqual(set(named.split()), {code for code, *_ in TABLE})


class WhereItTurns(unittest.TestCase):
    """Cautions that hang on a figure the plan works out.

    Sought between a joint that has it and one that has not.
    """

    def turn(self, code: str, have: Any, low: float, high: float) -> tuple[Any, Any]:
        """Two plans on either side of the turn, within a ten thousandth.

        With the caution, and without.
        """
        with_it, without = (low, high) if code in codes(have(low)) else (high, low)
        self.assertNotIn(code, codes(have(without)))
        while abs(with_it - without) > 1e-4 * abs(high - low):
            middle = (with_it + without) / 2
            if code in codes(have(middle)):
                with_it = middle
            else:
                without = middle
        return have(with_it), have(without)

    def test_half_a_millimetre_outside_the_cover(self) -> None:
        over, under = self.turn(
            "cover-short", lambda a: plan("butt", **pins(cup=6, current_a=a)), 15.0, 120.0
        )
        self.assertAlmostEqual(over.torch.uncovered_mm, 0.5, delta=0.012)
        self.assertLessEqual(under.torch.uncovered_mm, 0.5)

    def test_duplex_cooling(self) -> None:
        """From 4 s between 1200 and 800 °C there is no text; the caution starts below 2 s."""
        slow, quick = self.turn(
            "duplex-heat-low", lambda t: plan("butt", member("2205", f"{t:.4f} mm")), 0.8, 1.6
        )
        self.assertAlmostEqual(min(slow.heat.cooling_s, quick.heat.cooling_s), 4.0, delta=0.004)
        sure = [
            plan("butt", member("2205", "1 mm"), **pins(current_a=a)) for a in (25.0, 25.2, 25.4)
        ]
        for p in sure:
            self.assertEqual("duplex-heat-low" in codes(p, "caution"), p.heat.cooling_s < 2.0)

    def test_a_tail_longer_than_the_cup_covers(self) -> None:
        over, under = self.turn(
            "tail-uncovered", lambda a: plan("butt", **pins(cup=12, current_a=a)), 30.0, 120.0
        )
        self.assertAlmostEqual(over.torch.tail_uncovered_mm, over.torch.cover_mm / 2, delta=0.02)
        self.assertLessEqual(under.torch.tail_uncovered_mm, under.torch.cover_mm / 2)


class WeldMetalCautions(unittest.TestCase):
    """The weld metal's rules, just inside and just outside.

    Ferrite 3 % sound, 1 % low; ratio 1.5 (Suutala); 20 °C; 10.5 % chromium (EN 10088); pitting
    number one under the poorer sheet's.
    """

    def rules(
        self,
        kind: str = "butt",
        b: str = "304L",
        rod: str = "ER308L",
        over: float = 0.0,
        leaning: bool = False,
        **figures: Any,
    ) -> set[tuple[str, str]]:
        """Return code and level for a weld metal with these figures that is acceptable otherwise.

        `over` is the excess dilution.
        """
        sound: dict[str, Any] = {
            "analysis": {},
            "cr_eq": 20.0,
            "ni_eq": 11.0,
            "ferrite_pct": 8.0,
            "solidification_ratio": 1.8,
            "martensite_start_c": -100.0,
            "pren": 40.0,
            "chromium_pct": 19.0,
        }
        made = joint(kind, member(), member(b))
        metal = WeldMetal(**{**sound, **figures})
        estimate = DilutionEstimate(
            metal, (metal,), Feed(1.0, 0.3 + over, None, 1.0), Limits(0.3, 0.2, 0.3)
        )
        return {
            (c.code, c.level)
            for c in weld_metal_cautions._check_metal(
                made, build_section(made), catalogue.load_rods()[rod], metal, estimate, leaning
            )
        }

    def test_accepted_values(self) -> None:
        self.assertEqual(self.rules(), set())

    def test_ferrite(self) -> None:
        """A note below 3 %.

        A caution only 4 % below that (by the formula, without minimum), and only if no feed within
        0.1 fixes it.
        """
        short = {"ferrite_pct": 0.0, "cr_eq": 16.0, "ni_eq": 10.5}
        self.assertEqual(self.rules(ferrite_pct=3.0), set())
        self.assertEqual(self.rules(ferrite_pct=2.99), {("ferrite-low", "note")})
        self.assertEqual(self.rules(over=0.09, **short), {("ferrite-low", "note")})
        self.assertEqual(self.rules(over=0.106, **short), {("hot-cracking", "caution")})
        self.assertEqual(self.rules(over=0.12, leaning=True, **short), {("ferrite-low", "note")})
        # 3 (16 − 0.93 × 10.35 − 6.7) = −0.98, 10.37: −1.03
        self.assertEqual(
            self.rules(over=0.12, **{**short, "ni_eq": 10.35}), {("ferrite-low", "note")}
        )
        self.assertEqual(
            self.rules(over=0.12, **{**short, "ni_eq": 10.37}), {("hot-cracking", "caution")}
        )

    def test_first_to_freeze(self) -> None:
        self.assertEqual(self.rules(solidification_ratio=1.5), set())
        self.assertEqual(self.rules(solidification_ratio=1.49), {("hot-cracking", "note")})

    def test_martensite(self) -> None:
        """Above room temperature a note, and a caution if no feed within 0.1 fixes it.

        Solved to a thousandth, a degree is nothing.
        """
        self.assertEqual(self.rules(martensite_start_c=21.0), set())
        self.assertEqual(self.rules(martensite_start_c=21.1), {("martensite", "note")})
        self.assertEqual(
            self.rules(martensite_start_c=21.1, over=0.12), {("martensite", "caution")}
        )

    def test_not_stainless(self) -> None:
        self.assertEqual(self.rules(chromium_pct=10.5), set())
        self.assertEqual(self.rules(chromium_pct=10.49), {("weld-metal-not-stainless", "stop")})

    def test_pitting(self) -> None:
        """304L by hand: 18.2 + 3.3 × 0.2 + 16 × 0.07 = 19.98; 201 is 16.5 + 16 × 0.15 = 18.9."""
        self.assertEqual(self.rules(pren=18.99), set())
        self.assertEqual(self.rules(pren=18.97), {("pitting-below-base", "caution")})
        self.assertEqual(self.rules(b="201", pren=17.91), set())
        self.assertEqual(self.rules(b="201", pren=17.89), {("pitting-below-base", "caution")})
        self.assertEqual(self.rules(b="mild-steel", pren=1.0), set())

    def test_fully_austenitic_rod(self) -> None:
        self.assertEqual(self.rules(rod="ER310", ferrite_pct=0.0), {("no-ferrite", "note")})


if __name__ == "__main__":
    unittest.main()
