"""Allowed values: each limit is accepted, and a value just outside is refused."""

import unittest
from collections.abc import Callable
from typing import Any

from tests.core.rows import ROUND, Rows, thick
from tests.samples import joint, plan, run, tube
from wisearc.core.errors import InputError
from wisearc.core.plan.pins import PINS
from wisearc.core.run.run import get_planned_values, read_run

FIELDS = {
    "length_mm": (1, 20000),
    "gap_mm": (0, 10),
    "reach_mm": (0, 60),
    "travel_mm_s": (0.3, 20),
    "part_mass_g": (1, 1e6),
    "angle_deg": (20, 170),
    "overlap_pct": (25, 80),
    "purge_length_mm": (10, 20000),
    "purge_volume_l": (0.01, 1000),
    "purge_target_ppm": (10, 5000),
    "opening_deg": (15, 180),
}
MANUAL = {
    "rod_diameter_mm": (0.5, 3.2),
    "current_a": (3, 400),
    "rate_pps": (0.3, 500),
    "on_pct": (5, 95),
    "background_pct": (1, 95),
    "peak_a": (5, 400),
    "included_angle_deg": (8, 120),
    "stickout_mm": (1, 40),
    "flow_l_min": (1, 40),
    "preflow_s": (0, 30),
    "postflow_s": (0, 60),
    "purge_l_min": (0.5, 30),
    "tack_pitch_mm": (3, 500),
    "tack_current_a": (3, 400),
}
RUN_LIMITS = {
    "set": {
        "current_a": (1, 500),
        "rate_pps": (0.1, 500),
        "on_pct": (1, 99),
        "background_pct": (1, 99),
        "flow_l_min": (1, 60),
        "postflow_s": (0, 60),
    },
    "used": {"rod_mm": (0.3, 6), "cup": (3, 24), "gap_mm": (0, 10)},
    "measured": {
        "peak_a": (1, 500),
        "arc_time_s": (1, 36000),
        "length_mm": (1, 20000),
        "rods": (0, 1000),
        "bead_mm": (0.2, 30),
        "bow_mm": (0, 200),
    },
}
TEXTS = {"who": 60, "machine": 60, "notes": 4000, "procedure": 20, "revision": 4}


class Limits(Rows):
    def ends(
        self, low: float, high: float, take: Callable[[float], Any], step: float = 0.01
    ) -> None:
        """Both limits are accepted, and a step past either is refused."""
        for value in (low, high):
            take(value)
        for value in (low - step, high + step):
            self.assertRaises(InputError, take, value)

    def test_fields_and_pins(self) -> None:
        for key, (low, high) in FIELDS.items():
            with self.subTest(field=key):
                self.ends(
                    low, high, lambda v, key=key: joint(**{key: v}), min(0.01, low / 2 or 0.01)
                )
        self.ends(0.5, 12, lambda v: joint("tee", leg_mm=v))
        self.assertEqual({k for k, pin in PINS.items() if not pin.by_hand.allowed}, set(MANUAL))
        for key, (low, high) in MANUAL.items():
            with self.subTest(pin=key):
                self.ends(low, high, lambda v, key=key: joint(pins={key: v}))

    def test_refusal_names_value_and_reason(self) -> None:
        for kind, data, field, words in (
            (
                "tube-butt",
                {"purge_length": "0 mm"},
                "purge_length",
                "is 0 mm, but must be from 10 mm to 20000 mm",
            ),
            (
                "tube-butt",
                {"purge_length": "21 m"},
                "purge_length",
                "is 21000 mm, but must be from 10 mm to 20000 mm",
            ),
            ("tee", {"opening_deg": 10}, "opening_deg", "must be from 15° to 180°"),
            ("butt", {"leg": "2 mm"}, "leg", "is for fillets, and a butt has none. Leave it empty"),
            ("outside-corner", {"leg_mm": 2}, "leg", "an outside corner has none"),
            ("tee", {"leg": "13 mm"}, "leg", "must be from 0.5 mm to 12 mm"),
        ):
            given = {"a": tube(), **ROUND} if kind == "tube-butt" else {}
            with self.subTest(data=data), self.assertRaises(InputError) as caught:
                joint(kind, **given, **data)
            self.assertEqual(caught.exception.field, field)
            self.assertIn(words, str(caught.exception))

    def test_sheet_and_tube(self) -> None:
        """Sheet 0.3 to 6 mm; a tube 3 to 1000 mm over, its wall less than 0.45 of it.

        Two in line within two walls; a cope 90° at most.
        """
        self.ends(0.3, 6, lambda t: joint("butt", thick(t)))
        for wall, low, high in (
            ("0.3 mm", 3, 1000),
            ("4.5 mm", 10, 1000),
            ("1.2 mm", 25 - 2.4, 25 + 2.4),
        ):
            other = None if wall != "1.2 mm" else tube()
            self.ends(
                low,
                high,
                lambda d, wall=wall, other=other: joint(
                    "tube-butt", tube(wall=wall, diameter=f"{d} mm"), other, **ROUND
                ),
            )
        for other in ("51 mm", "25 mm"):
            joint("tube-cope", tube(diameter="25 mm"), tube(diameter=other), **ROUND, angle_deg=90)
        self.assertRaises(
            InputError,
            joint,
            "tube-cope",
            tube(diameter="25.1 mm"),
            tube(diameter="25 mm"),
            **ROUND,
        )
        self.assertRaises(
            InputError, joint, "tube-cope", tube(), tube(diameter="51 mm"), **ROUND, angle_deg=91
        )

    def test_texts(self) -> None:
        joint(title="x" * 120, length="1" + " " * 57 + "mm")
        for more in ({"title": "x" * 121}, {"length": "1" + " " * 58 + "mm"}):
            self.assertRaises(InputError, joint, **more)

    def test_runs(self) -> None:
        for part, figures in RUN_LIMITS.items():
            for key, (low, high) in figures.items():
                with self.subTest(part=part, key=key):
                    self.ends(
                        low, high, lambda v, part=part, key=key: read_run(run(**{part: {key: v}}))
                    )
        for key, most in TEXTS.items():
            read_run(run(**{key: "x" * most}))
            with self.subTest(key=key):
                self.assertRaises(InputError, read_run, run(**{key: "x" * (most + 1)}))
        photograph = {"file": "a", "sha256": "0" * 64}
        read_run(run(photographs=[photograph] * 100))
        self.assertRaises(InputError, read_run, run(photographs=[photograph] * 101))

    def test_settings_of_a_plan(self) -> None:
        """A rate belongs to a pulse: the dab of a foot, and a steady arc, set none."""
        slow = {
            key: value
            for key, (value, _) in get_planned_values(plan("edge", pulse="slow-cold")).items()
        }
        self.assertEqual(
            {"set.rate_pps", "set.on_pct", "set.background_pct"} & set(slow),
            {"set.rate_pps", "set.on_pct", "set.background_pct"},
        )
        for pulse in ("pedal", "none"):
            self.assertEqual(
                set(get_planned_values(plan("edge", pulse=pulse))),
                {"set.current_a", "set.flow_l_min", "set.postflow_s", "used.rod", "used.cup"},
            )


if __name__ == "__main__":
    unittest.main()
