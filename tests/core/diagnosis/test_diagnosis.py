"""Causes by the table of signs: common practice, no source."""

import unittest
from typing import Any

from tests.core.diagnosis.cases import FLANGE, of, said
from tests.samples import member, plan
from wisearc.core.plan.plan import Plan


class EveryRow(unittest.TestCase):
    def test_of_the_table(self) -> None:
        butt, tube = of(), plan(**FLANGE)
        corner = plan("outside-corner", member(thickness="0.9 mm"), back="copper-bar")
        rows: tuple[tuple[Plan, tuple[str, ...], dict[str, Any], str, str], ...] = (
            (butt, ("cold",), {}, "heat-low", "amps-up"),
            (butt, (), {"seen": {"edges": "stand", "ripple": "even"}}, "heat-low", "amps-up"),
            (butt, ("too-hot",), {}, "heat-high", "amps-down"),
            (
                butt,
                ("grey", "rod-grey"),
                {"seen": {"where": {"grey": "stops"}}},
                "left-early",
                "postflow-longer",
            ),
            (butt, ("wobble",), {"set": {"flow_l_min": None}}, "gas-high", "flow-down"),
            (
                plan("edge", member(thickness="1 mm")),
                ("frosty", "pores"),
                {},
                "edge-splits",
                "cup-bigger",
            ),
            (butt, ("keyhole",), {}, "root-cold", "amps-up"),
            (butt, ("hole",), {"used": {"gap_mm": 1.0}}, "gap", "refit"),
            (tube, ("edge-lost",), {}, "arc-on-thin", "aim-at-the-thick"),
            (butt, ("tacks-cracked",), {}, "tacks-few", "tacks-closer"),
            (corner, (), {"back": {"colour": "sugar"}}, "back-bare", "bars-both-sides"),
            (butt, ("crater-crack",), {}, "taper-short", "taper-longer"),
            (butt, ("restart",), {}, "restart-late", "restart-warm"),
            (butt, ("uneven",), {}, "hand-uneven", "rod-to-the-front"),
            (of(back="open", service="dry"), ("bowed",), {}, "warp", "bars"),
            (butt, ("rust",), {}, "iron", "clean-brush"),
            (butt, ("rust",), {"used": {"rod": "ER70S-2"}}, "rod-wrong", ""),
            (
                plan("tee", member(), filler="ER308L"),
                (),
                {"coupon": {"bend": "toe"}},
                "bead-heavy",
                "smaller-bead",
            ),
            (butt, ("touched",), {}, "touched", "regrind"),
        )
        for made, faults, more, cause, change in rows:
            with self.subTest(faults=faults, **more):
                found = said(made, faults, **more)
                self.assertEqual(found.verdict, "not-good")
                self.assertEqual(found.causes[0].cause.key, cause)
                if change:
                    self.assertEqual(found.change and found.change.code, change)

    def test_causes_that_share_a_sign_are_distinguished(self) -> None:
        butt, glow = of(), of().heat.glow_after_stop_s
        arc = {"by": "log", "mean_a": of().slopes.mean_a, "arc_s": of().travel.arc_time_s}
        purged = plan(**FLANGE)
        undercut = ("undercut",)
        rows: tuple[tuple[Plan, tuple[str, ...], dict[str, Any], str], ...] = (
            (butt, ("grey",), {"arc": {"by": "timer", "held_s": glow / 3}}, "left-early"),
            (
                butt,
                ("grey",),
                {
                    "seen": {"where": {"grey": [0.0, 1.0]}},
                    "used": {"cup": 4},
                    "set": {"flow_l_min": None},
                },
                "cover-small",
            ),
            (
                butt,
                ("grey",),
                {"seen": {"where": {"grey": [0.0, 1.0]}, "told": {"draught": True}}},
                "gas-low",
            ),
            (
                butt,
                ("grey", "wobble"),
                {"set": {"flow_l_min": 2.2 * butt.gas.flow_l_min}},
                "gas-high",
            ),
            (butt, ("hole",), {"used": {"gap_mm": 1.2}}, "gap"),
            (
                butt,
                ("hole", "too-hot"),
                {"set": {"current_a": 1.3 * butt.slopes.machine_a}},
                "heat-high",
            ),
            (
                purged,
                ("hole",),
                {"seen": {"told": {"arc-on-thin": True}}, "used": {"gap_mm": 0.0}},
                "arc-on-thin",
            ),
            (butt, ("pores",), {"seen": {"told": {"dirty": True}}}, "dirty"),
            (
                butt,
                ("pores",),
                {
                    "seen": {"told": {"draught": True}},
                    "set": {"flow_l_min": 0.4 * butt.gas.flow_l_min},
                },
                "gas-low",
            ),
            (butt, ("pores",), {"set": {"flow_l_min": 2.3 * butt.gas.flow_l_min}}, "gas-high"),
            (
                purged,
                (),
                {
                    "back": {"colour": "sugar"},
                    "purge": {
                        "at_arc_ppm": 4000,
                        "most_ppm": 4000,
                        "target_ppm": 50,
                        "held": False,
                    },
                },
                "purge-early",
            ),
            (butt, ("uneven",), {"arc": {"by": "timer", "touched": 1}}, "touched"),
            (butt, ("uneven",), {"seen": {"told": {"rod-side": True}}}, "hand-uneven"),
            (
                butt,
                undercut,
                {
                    "look": "wide",
                    "arc": {**arc, "energy_kj": arc["mean_a"] * arc["arc_s"] * 14.5 / 1000},
                },
                "arc-long",
            ),
            (
                butt,
                undercut,
                {"coupon": {"bend": "toe"}, "measured": {"bead_mm": 9.0}},
                "bead-heavy",
            ),
            (
                butt,
                (),
                {"front": {"colour": "blue"}, "used": {"cup": 4}, "set": {"flow_l_min": None}},
                "cover-small",
            ),
            (
                butt,
                (),
                {
                    "front": {"colour": "blue"},
                    "set": {"current_a": 1.3 * butt.slopes.machine_a},
                    "look": "sunk",
                },
                "heat-high",
            ),
        )
        for made, faults, more, cause in rows:
            with self.subTest(faults=faults, **more):
                found = said(made, faults, **more)
                self.assertEqual(
                    found.causes[0].cause.key,
                    cause,
                    [(r.cause.key, round(r.weight, 2)) for r in found.causes],
                )

    def test_dull_raised_edges_are_treated_as_poor_shielding(self) -> None:
        found = said(
            of(), ("cold", "grey"), seen={"where": {"grey": [0, 1]}, "told": {"draught": True}}
        )
        self.assertEqual(found.causes[0].cause.key, "gas-low")
        self.assertNotIn("Current", found.change.words.text() if found.change else "")
