"""Manual answers and their judgement; two plans compared; approaches of the shop; tables."""

import unittest

from tests.samples import CORNER, TEE, member
from tests.store_case import StoreCase
from wisearc.core.errors import UnknownName
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.forms.joint_changes import change
from wisearc.presenters.comparison import compare
from wisearc.presenters.pin_effects import pin_effects
from wisearc.presenters.plan import build_plan_view
from wisearc.presenters.reference import build_reference_tables
from wisearc.services.planning.approaches import build_new_joint, choose_approach, load_preferences


class Effects(unittest.TestCase):
    def effect(self, line: str, **more):
        """The first effect of a pinned joint, at an answer."""
        joint = make_joint({**CORNER, **more})
        return pin_effects(build_plan_view(joint, "mm", ASSUMED), ASSUMED, line)[0]

    def test_unchanged_and_changed_values(self) -> None:
        found = self.effect("torch", pins={"cup": 6})
        self.assertEqual((found.verdict, found.label), ("fine", "Cup 6"))
        self.assertIn("Gas: 9.6 L/min argon → 7.2 L/min argon", found.changes)
        self.assertIn("no. 8", found.own)
        dearer = self.effect("filler", joint="tee", filler="ER309L").changes
        self.assertTrue(any(c.startswith("Ferrite: ") for c in dearer), dearer)

    def test_caution_and_stop(self) -> None:
        self.assertEqual(
            self.effect("torch", pins={"stickout_mm": 15.0, "cup": 8}).verdict, "caution"
        )
        self.assertEqual(self.effect("torch", pins={"stickout_mm": 26.0, "cup": 8}).verdict, "stop")
        self.assertEqual(self.effect("back", back="open", service="wet").verdict, "stop")
        self.assertEqual(self.effect("filler", filler="ER70S-2").verdict, "stop")

    def test_fields_contain_overrides_and_calculated_values(self) -> None:
        fields = {
            f.key: f
            for line in build_plan_view(
                make_joint({**CORNER, "pins": {"flow_l_min": 9.44}}), "in", ASSUMED
            ).fields.values()
            for f in line
        }
        self.assertEqual(
            (fields["pins.flow_l_min"].value, fields["pins.flow_l_min"].label), ("20", "Flow (CFH)")
        )
        self.assertEqual(fields["pins.cup"].own, "8")
        self.assertNotIn("pins.rod_diameter_mm", fields)
        self.assertLessEqual(
            {"ER308L", "ERNiCr-3", "none"}, {one.value for one in fields["filler"].options}
        )

    def test_entry_in_both_unit_systems(self) -> None:
        for key, text, habit, name, value in (
            ("pins.flow_l_min", "20", "in", "flow_l_min", 9.4390),
            ("pins.flow_l_min", "9,5", "mm", "flow_l_min", 9.5),
            ("pins.stickout_mm", ".25", "in", "stickout_mm", 6.35),
            ("pins.stickout_mm", "1/4 in", "mm", "stickout_mm", 6.35),
            ("pins.cup", "6", "mm", "cup", 6),
        ):
            done = change(make_joint({**CORNER, "joint": "butt"}), [(key, text)], habit)
            with self.subTest(key=key, text=text, habit=habit):
                self.assertAlmostEqual(done.joint.pins.get(name), value, places=3)
        for key, text in (("pins.cup", "9"), ("pins.flow_l_min", "lots")):
            self.assertEqual(change(make_joint(CORNER), [(key, text)], "mm").problems[0].key, key)


class Compared(unittest.TestCase):
    def rows(self, left: dict, right: dict, habit: str = "mm"):
        """The comparison, and its rows by label."""
        both = compare(*(make_plan(make_joint(data), ASSUMED) for data in (left, right)), habit)
        return both, {r.label: r for r in (*both.answers, *both.figures)}

    def test_bars_and_pulse_against_steady_in_the_open(self) -> None:
        both, rows = self.rows(CORNER, {**CORNER, "pulse": "none", "back": "open"})
        self.assertTrue(rows["Pulse"].differs and rows["Root side"].differs)
        self.assertFalse(rows["Filler"].differs)
        self.assertRegex(rows["Heat input"].words, r"^\d+ % more in the second$")
        self.assertIn("The second has the more serious cautions", both.summary)

    def test_two_rods(self) -> None:
        _, rows = self.rows({**TEE, "filler": "ER308L"}, {**TEE, "filler": "ER309L"})
        self.assertTrue(rows["Ferrite"].differs)
        self.assertFalse(rows["Unpulsed current"].differs)

    def test_difference_against_a_manual_calculation(self) -> None:
        """No. 6 against no. 12 at one Reynolds number: flow goes with the bore, so it doubles."""
        _, rows = self.rows({**CORNER, "pins": {"cup": 6}}, {**CORNER, "pins": {"cup": 12}})
        self.assertEqual(rows["Argon flow"].words, "100 % more in the second")

    def test_the_same(self) -> None:
        both, rows = self.rows(CORNER, CORNER, "in")
        self.assertFalse(any(r.differs for r in rows.values()))
        self.assertEqual(both.summary, "Both give the same figures.")


class Shop(StoreCase):
    def test_new_joints_start_with_the_shop_approaches(self) -> None:
        self.assertEqual(build_new_joint().rod_school, "under-sheet")
        choose_approach("rod_school", "equals-sheet")
        choose_approach("overlap_pct", "50")
        choose_approach("overlap_pct", "50")
        joint = build_new_joint()
        self.assertEqual((joint.rod_school, joint.overlap_pct), ("equals-sheet", 50.0))
        choose_approach("overlap_pct", "35")
        self.assertIsNone(build_new_joint().overlap_pct)
        self.assertEqual(load_preferences()["rod_school"], "equals-sheet")

    def test_unknown(self) -> None:
        with self.assertRaises(UnknownName):
            choose_approach("rod_school", "thick")


class Tables(unittest.TestCase):
    def test_rows_are_complete_in_both_unit_systems(self) -> None:
        for habit in ("mm", "in"):
            for table in build_reference_tables(habit):
                with self.subTest(table=table.key, habit=habit):
                    self.assertTrue(table.rows and table.source)
                    for row in table.rows:
                        self.assertEqual(len(row), len(table.heads))

    def test_figures(self) -> None:
        tables = {t.key: {row[0]: row for row in t.rows} for t in build_reference_tables("in")}
        self.assertEqual(tables["gauges"]["16 ga"][1:4], ["0.063 in", "0.06 in", "0.065 in"])
        self.assertEqual(tables["cups"]["no. 8"][1], "0.5 in")


class ThreeMembers(unittest.TestCase):
    def test_third_arm_takes_more_heat_flow(self) -> None:
        two = build_plan_view(
            make_joint({"joint": "tee", "members": [member(), member()]}), "mm", ASSUMED
        ).plan
        three = build_plan_view(
            make_joint({"joint": "tee", "members": [member(), member(), member()]}), "mm", ASSUMED
        ).plan
        self.assertGreater(three.current.heat_flow_a, 1.2 * two.current.heat_flow_a)
        self.assertAlmostEqual(three.current.steady_a / two.current.steady_a, 4 / 3, delta=0.01)
        self.assertEqual(three.section.third_arm, 1.3333)
        self.assertTrue(any("third member" in r.sentence.text() for r in three.current.why))
        self.assertFalse(any("third member" in r.sentence.text() for r in two.current.why))


if __name__ == "__main__":
    unittest.main()
