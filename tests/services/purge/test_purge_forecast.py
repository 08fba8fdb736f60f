"""A purge request.

Impossible values, just inside and just outside; the request of a plan; the end of the gas.
"""

import unittest

from tests.samples import COPE, EVERY, FLANGE, plan, tube
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.physics.purge import ARGON_PPM, MIN_OFF_S, argon_l, make_purging
from wisearc.core.plan.plan import make_plan
from wisearc.core.plan.purge_end import purge_off_s
from wisearc.core.shop.shop import ASSUMED
from wisearc.forms.purge import read_ask
from wisearc.presenters.purge import purge_view
from wisearc.services.purge.purge_forecast import (
    before_s,
    build_ask,
    purge_file,
)


class Asked(unittest.TestCase):
    def test_refused_just_outside(self) -> None:
        for bad, good, field, words in (
            ({"vent_mm": 0}, {"vent_mm": 0.1}, "vent_mm", "sealed tube"),
            (
                {"target_ppm": ARGON_PPM},
                {"target_ppm": ARGON_PPM + 0.1},
                "target_ppm",
                "the argon leaves",
            ),
            (
                {"shape": "box", "length_mm": 20_000, "width_mm": 1000, "height_mm": 101},
                {"shape": "box", "length_mm": 20_000, "width_mm": 1000, "height_mm": 100},
                "length_mm",
                "2000 L",
            ),
            ({"flow_l_min": 0.1}, {"flow_l_min": 0.2}, "flow_l_min", "from 0.2"),
            ({"shape": "sphere"}, {"shape": "dammed"}, "shape", "tube"),
            ({"bore_mm": 0.9}, {"bore_mm": 1}, "bore_mm", "from 1"),
            ({"gap_mm": -0.1}, {"gap_mm": 0}, "gap_mm", "from 0"),
        ):
            with self.subTest(bad=bad):
                make_purging(good)
                with self.assertRaises(InputError) as refused:
                    make_purging(bad)
                self.assertEqual(refused.exception.field, field)
                self.assertIn(words, str(refused.exception))

    def test_limits_of_the_fields(self) -> None:
        for key, low, high, more in (
            ("bore_mm", 1, 2000, {}),
            ("length_mm", 1, 20_000, {"bore_mm": 20}),
            ("dams_mm", 1, 20_000, {"shape": "dammed", "bore_mm": 20}),
            ("width_mm", 1, 20_000, {"shape": "box"}),
            ("height_mm", 1, 20_000, {"shape": "behind"}),
            ("volume_l", 0.001, 2000, {"shape": "told"}),
            ("flow_l_min", 0.2, 60, {}),
            ("weld_l_min", 0.2, 60, {}),
            ("vent_mm", 0.1, 100, {}),
            ("gap_mm", 0, 10, {}),
            ("target_ppm", 10.1, 20_000, {}),
            ("lag_s", 0, 60, {}),
        ):
            for value in (low, high):
                make_purging({**more, key: value})
            for value in (low * 0.9 - 0.1, high * 1.1 if key != "bore_mm" else 20_001):
                with self.subTest(key=key, value=value), self.assertRaises(InputError):
                    make_purging({**more, key: value})
        usual = make_purging({})
        self.assertEqual(
            (usual.target_ppm, usual.lag_s, usual.gap_mm, usual.weld_l_min), (100, 5, 0, 3)
        )

    def test_a_plans_own(self) -> None:
        """Stay of 25 × 1.2 on 51 × 1.5.

        The run's bore of 48 over dams 150 each side; 6 L/min to a bore of 50. Common practice, no
        source.
        """
        asked = make_purging(build_ask(make_plan(make_joint(COPE), ASSUMED)))
        self.assertEqual(
            (asked.shape, asked.bore_mm, asked.length_mm, asked.flow_l_min),
            ("tube", 48.0, 300.0, 6.0),
        )
        self.assertAlmostEqual(asked.closed_l, 0.543 + 0.15, places=3)
        self.assertAlmostEqual(before_s(asked), 600 * 0.693 / 6, delta=0.1)

    def test_entered_volume_is_kept(self) -> None:
        made = plan("tube-butt", tube(), tube(), length="all-round", purge_volume_l=4.0)
        self.assertEqual(build_ask(made)["shape"], "told")
        self.assertAlmostEqual(make_purging(build_ask(made)).closed_l, 4.0 + 0.15)

    def test_every_joint_has_a_page(self) -> None:
        for data in EVERY.values():
            for habit in ("mm", "in"):
                view = purge_view(make_plan(make_joint(data), ASSUMED), {}, habit)
                self.assertFalse(view.wrong)
                self.assertEqual(len({fact.label for fact in view.facts}), 9)

    def test_as_people_type_it(self) -> None:
        made = make_plan(make_joint(FLANGE), ASSUMED)
        ask = read_ask(
            made,
            {"bore_mm": "1 in", "flow_l_min": "20 CFH", "target_ppm": "80", "vent_mm": ".2"},
            "in",
        )
        self.assertAlmostEqual(ask.bore_mm, 25.4)
        self.assertAlmostEqual(ask.flow_l_min, 9.44, places=2)
        self.assertAlmostEqual(ask.vent_mm, 5.08)
        view = purge_view(made, {"vent_mm": "0"}, "mm")
        self.assertTrue(view.wrong)
        self.assertIn("sealed tube", next(f.error for f in view.fields if f.key == "vent_mm"))
        with self.assertRaises(InputError):
            read_ask(made, {"gap_mm": "-1"}, "mm")

    def test_warnings(self) -> None:
        made = make_plan(make_joint(COPE), ASSUMED)
        self.assertEqual(purge_view(made, {}, "mm").warnings, ())
        for given, words in (
            ({"vent_mm": "3"}, "blows out the pool"),
            ({"vent_mm": "16 mm"}, "Air enters"),
            ({"gap_mm": "2", "weld_l_min": "1"}, "Air enters"),
        ):
            with self.subTest(given=given):
                self.assertIn(words, " ".join(purge_view(made, given, "mm").warnings))
        # of one opening: just over and just under the flow that keeps air out
        need = next(
            f for f in purge_view(made, {"gap_mm": "1"}, "mm").facts if f.label == "During the weld"
        ).more
        self.assertIn("0.8 L/min", need)
        self.assertEqual(purge_view(made, {"gap_mm": "1", "weld_l_min": "0.9"}, "mm").warnings, ())
        self.assertIn(
            "Air enters",
            " ".join(purge_view(made, {"gap_mm": "1", "weld_l_min": "0.8"}, "mm").warnings),
        )

    def test_settles_above(self) -> None:
        """A gap too wide for the flow: diffusion keeps the oxygen above the target."""
        made = plan("tube-butt", tube(wall="0.5 mm"), tube(wall="0.5 mm"), length="all-round")
        found = purge_view(made, {"gap_mm": "8", "flow_l_min": "0.3", "weld_l_min": "0.3"}, "mm")
        self.assertTrue(any("settles at" in words for words in found.warnings))
        self.assertIn("never", [fact.figure for fact in found.facts])


class Times(unittest.TestCase):
    def test_off_no_sooner_than_half_a_minute(self) -> None:
        """Off only below 200 °C, 30 to 60 s. Common practice, no source."""
        for data in EVERY.values():
            made = make_plan(make_joint(data), ASSUMED)
            self.assertGreaterEqual(purge_off_s(made), MIN_OFF_S)
            self.assertGreater(purge_off_s(made), made.heat.glow_after_stop_s)
        self.assertEqual(MIN_OFF_S, 30)
        # a thick wall holds its heat for longer
        thick = plan(
            "tube-butt",
            tube(wall="3 mm", diameter="60 mm"),
            tube(wall="3 mm", diameter="60 mm"),
            length="all-round",
        )
        self.assertGreater(purge_off_s(thick), 31)

    def test_argon_against_a_manual_calculation(self) -> None:
        """A minute at 6, two at 3, half a one at 3: 6 + 6 + 1.5."""
        self.assertAlmostEqual(argon_l(60, 6, 120, 3, 30), 13.5)

    def test_as_data(self) -> None:
        made = make_plan(make_joint(COPE), ASSUMED)
        found = purge_file(made)
        for key in (
            "volume_l",
            "preflow_l_min",
            "weld_flow_l_min",
            "minutes_volumes",
            "minutes_mixed",
            "target_ppm",
            "vent_mm",
            "leak_flow_l_min",
            "closing_flow_l_min",
        ):
            self.assertEqual(found[key], getattr(made.back.purge, key))
        # one volume: a tenth of the bench's ten
        self.assertAlmostEqual(found["minutes_layered"], found["minutes_volumes"] / 10, delta=0.011)
        self.assertIsNone(purge_file(plan("butt", finish="sound")))
