"""Changes of a joint: typed text, dependent fields, questions, errors, and effects."""

import unittest
from urllib.parse import parse_qsl

from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.link import read_link
from wisearc.forms.joint_changes import Changed, change
from wisearc.forms.joint_fields import build_editors, list_shown_texts
from wisearc.presenters.plan import build_difference, build_plan_view
from wisearc.services.planning.planner import plan_as_data, plan_of_text


def changed(query: str, given: str = "", habit: str = "mm") -> Changed:
    """The outcome of a change of a link's joint."""
    return change(read_link(parse_qsl(query))[0], parse_qsl(given, keep_blank_values=True), habit)


class Following(unittest.TestCase):
    def test_a_coped_tube_makes_tubes(self) -> None:
        done = changed("joint=tee&a.thickness=1.2 mm", "joint=tube-cope")
        self.assertEqual([m.form for m in done.joint.members], ["tube", "tube"])
        self.assertTrue(done.joint.all_round)
        self.assertTrue(any("Enter the real diameter" in s for s in done.said))

    def test_a_tube_on_plate_keeps_the_plate(self) -> None:
        done = changed("joint=tee&a.thickness=1.2 mm", "joint=tube-plate")
        self.assertEqual([m.form for m in done.joint.members], ["tube", "sheet"])
        tubes = changed(
            "joint=tube-butt&a.form=tube&a.thickness=1.2 mm&a.diameter=25 mm", "joint=tube-plate"
        )
        self.assertEqual([m.form for m in tubes.joint.members], ["tube", "flange"])
        self.assertIn("For a tube on plate the second member is now a flange.", tubes.said)

    def test_a_tube_goes_all_round_by_itself(self) -> None:
        done = changed("joint=butt&length=380 mm", "a.form=tube")
        self.assertEqual(
            ([m.form for m in done.joint.members], done.joint.all_round), (["tube", "tube"], True)
        )
        self.assertIn("A tube is welded all round. Enter a length to weld part of it.", done.said)
        one = changed("joint=tee", "b.form=tube")
        self.assertEqual([m.form for m in one.joint.members], ["tube", "sheet"])
        self.assertIn("The tube must be the first member. The members are now swapped.", one.said)

    def test_back_to_sheet(self) -> None:
        done = changed(
            "joint=tube-butt&a.form=tube&a.diameter=25 mm&length=all-round&position=fixed-tube",
            "joint=butt",
        )
        self.assertEqual(
            ([m.form for m in done.joint.members], done.joint.position.key, done.joint.length.mm),
            (["sheet", "sheet"], "flat", 100),
        )
        self.assertIn("All round is only for tubes. The seam length is now 100 mm.", done.said)

    def test_joint_follows_forms(self) -> None:
        for query, given, kind in (
            ("joint=butt", "a.form=tube", "tube-butt"),
            ("joint=butt&b.form=flange", "a.form=tube", "tube-plate"),
            ("joint=tube-cope&a.form=tube&a.diameter=25 mm", "a.form=sheet&b.form=sheet", "butt"),
        ):
            done = changed(query, given)
            with self.subTest(query=query):
                self.assertEqual(done.joint.kind.key, kind)
                self.assertTrue(done.said)

    def test_third_member_is_added_and_removed(self) -> None:
        more = changed("joint=tee&a.thickness=2 mm&b.metal=316L", "third=add")
        self.assertEqual([m.metal.key for m in more.joint.members], ["304L", "316L", "316L"])
        again = changed(
            "joint=tee&a.thickness=2 mm&c.metal=316L&c.form=sheet&c.thickness=1 mm", "third=drop"
        )
        self.assertEqual(len(again.joint.members), 2)
        same = changed("joint=tee&a.thickness=2 mm&b.metal=316L&b.thickness=1 mm", "same=b")
        self.assertEqual(same.joint.members[0], same.joint.members[1])

    def test_pedal_pulse_without_a_pedal(self) -> None:
        self.assertEqual(changed("pulse=pedal", "control=none").joint.pulse, "auto")

    def test_fillet_asks_for_a_leg_and_the_reach_states_its_limit(self) -> None:
        for kind, leg, reach in (
            ("tee", True, "to suit the cup"),
            ("lap", True, "5 mm for this joint"),
            ("butt", False, "5 mm for this joint"),
        ):
            fields = {
                f.key: f
                for e in build_editors(changed(f"joint={kind}").joint, "mm")
                for f in e.fields
            }
            self.assertEqual(("leg" in fields, reach in fields["reach"].hint), (leg, True), kind)

    def test_purged_length_is_a_choice_with_back_purge(self) -> None:
        for query, words in (
            ("joint=butt", None),
            ("joint=butt&back=purge", "a channel along the seam"),
            ("joint=butt&back=purge&purge_length=300 mm", "300 mm of it"),
            ("joint=butt&back=purge&purge_volume_l=2", "2 L"),
        ):
            parts = [
                p.text()
                for p in build_plan_view(changed(query).joint, "mm", ASSUMED).plan.sentence
                if p.word == "purge"
            ]
            self.assertEqual(parts, [words] if words else [])

    def test_a_leg_goes_with_the_fillet(self) -> None:
        kept = changed("joint=tee&leg=2 mm", "joint=lap")
        self.assertEqual((kept.joint.leg.mm, kept.said), (2, []))
        removed = changed("joint=tee&leg=2 mm", "joint=butt")
        self.assertIsNone(removed.joint.leg)
        self.assertIn("A leg is only for fillets", " ".join(removed.said))

    def test_round_rod_shows_diameter(self) -> None:
        joint = changed("joint=tee&b.form=rod&b.thickness=4 mm").joint
        editor = next(e for e in build_editors(joint, "mm") if e.word == "b")
        self.assertEqual(editor.fields[0].label, "Diameter")
        self.assertIn(
            "4 mm 304L round rod",
            [p.text() for p in build_plan_view(joint, "mm", ASSUMED).plan.sentence],
        )


class Typed(unittest.TestCase):
    def test_numbers_without_unit_use_the_unit_system(self) -> None:
        self.assertAlmostEqual(changed("", "length=15", "in").joint.length.mm, 381)
        self.assertAlmostEqual(changed("", "length=15", "mm").joint.length.mm, 15)
        self.assertAlmostEqual(changed("", "travel_mm_s=8", "in").joint.travel_mm_s, 3.386667)

    def test_units_as_people_type_them(self) -> None:
        for given, key, value in (
            ("angle_deg=45°", "angle_deg", 45),
            ("angle_deg=45 deg", "angle_deg", 45),
            ("overlap_pct=50 %", "overlap_pct", 50),
            ("part_mass_g=250 g", "part_mass_g", 250),
            ("travel_mm_s=8 in/min", "travel_mm_s", 3.386667),
            ("purge_target_ppm=50 ppm", "purge_target_ppm", 50),
            ("purge_volume_l=2 L", "purge_volume_l", 2),
        ):
            with self.subTest(given=given):
                self.assertAlmostEqual(getattr(changed("joint=tee", given).joint, key), value)

    def test_gauge_is_offered_for_an_integer_without_unit(self) -> None:
        asked = changed("", "a.thickness=16").problems[0]
        self.assertEqual(asked.offers, (("16 ga", "16 ga (1.59 mm)"),))
        self.assertIn("Did you mean 16 ga (1.59 mm)?", asked.sentence)
        asked = changed("b.form=flange&b.thickness=4 mm", "b.thickness=12").problems[0]
        self.assertEqual([value for value, _ in asked.offers], ["12 ga", "12 mm"])
        self.assertEqual(changed("", "a.thickness=16", "in").problems[0].offers[0][0], "16 ga")
        for plain in ("2", "6", "1.6", "16 ga"):
            self.assertEqual(changed("", f"a.thickness={plain}").problems, [])

    def test_a_leading_point_is_asked_about_where_it_could_be_either(self) -> None:
        asked = changed("", "gap=.2").problems[0]
        self.assertEqual([value for value, _ in asked.offers], ["0.2 mm", ".2 in"])
        self.assertAlmostEqual(changed("", "a.thickness=.065").joint.members[0].thickness_mm, 1.651)
        self.assertEqual(changed("", "gap=.02", "in").problems, [])

    def test_limits_use_the_unit_system(self) -> None:
        for given, habit, words in (
            ("a.thickness=9 in", "in", "is 9 in, but must be from 0.01181 in to 0.2362 in"),
            ("a.thickness=9 in", "mm", "is 228.6 mm, but must be from 0.3 mm to 6 mm"),
            ("travel_mm_s=900", "in", "must be from 0.7 in/min to 47.2 in/min"),
            ("pins.flow_l_min=900", "in", "“900” must be from 2.1 CFH to 85 CFH"),
        ):
            self.assertIn(words, changed("", given, habit).problems[0].sentence)

    def test_as_typed_it_stays(self) -> None:
        for typed in ("1/16", ".065", "1,6 mm", "16ga"):
            joint = changed("", f"a.thickness={typed}").joint
            self.assertIn(list_shown_texts(joint, "mm")["a.thickness"][-1], (typed, f"{typed} in"))

    def test_form_with_current_values_changes_nothing(self) -> None:
        for query in (
            "joint=tee&a.thickness=16 ga&length=15 in",
            (
                "joint=tube-butt&a.form=tube&a.diameter=25"
                " mm&length=all-round&pins.cup=6&filler=ER316L"
            ),
        ):
            for habit in ("mm", "in"):
                joint = changed(query).joint
                given = [
                    (key, text)
                    for key, texts in list_shown_texts(joint, habit).items()
                    for text in texts
                ]
                self.assertEqual(change(joint, given, habit), Changed(joint))

    def test_invalid_value_is_reported_by_key_and_keeps_the_joint(self) -> None:
        for query, given, key in (
            ("", "a.thickness=banana", "a.thickness"),
            ("", "gap=9 in", "gap"),
            ("", "length=", "length"),
            ("", "a.thickness=", "a.thickness"),
            (
                "joint=tube-cope&a.form=tube&a.diameter=25 mm&b.diameter=51 mm",
                "a.diameter=60 mm",
                "a.diameter",
            ),
            (
                "joint=tube-cope&a.form=tube&a.diameter=25 mm&b.diameter=51 mm",
                "b.diameter=20 mm",
                "b.diameter",
            ),
            ("", "travel_mm_s=fast", "travel_mm_s"),
            ("", "what=1", "what"),
        ):
            done = changed(query, given)
            with self.subTest(given=given):
                self.assertEqual((done.joint, done.problems[0].key), (changed(query).joint, key))


class ChangeEffects(unittest.TestCase):
    def told(self, query: str, given: str, habit: str = "mm"):
        done = changed(query, given, habit)
        return build_difference(
            build_plan_view(changed(query).joint, habit, ASSUMED),
            build_plan_view(done.joint, habit, ASSUMED),
            done.said,
        )

    def test_change_is_marked_and_announced(self) -> None:
        did = self.told("joint=outside-corner&a.thickness=16 ga&length=380 mm", "pins.cup=6")
        self.assertEqual((did.dial["cup"], did.lines["torch"]), ("no. 8", "gas lens, no. 8"))
        self.assertTrue(
            did.told.startswith("Argon 9.6 L/min → 7.2 L/min; Cup no. 8 → no. 6."), did.told
        )
        self.assertNotIn("back", did.dial)

    def test_first_caution_is_announced(self) -> None:
        did = self.told("joint=tee&b.metal=mild-steel", "filler=ER70S-2")
        self.assertRegex(did.told, r"cautions, first: Stop: ")

    def test_no_change_is_announced_only_when_nothing_changed(self) -> None:
        self.assertEqual(self.told("joint=butt", "title=Panel").told, "The answers are unchanged.")
        self.assertFalse(self.told("joint=butt", "joint=butt"))


class Whole(unittest.TestCase):
    def test_view(self) -> None:
        for habit in ("mm", "in"):
            view = build_plan_view(changed("").joint, habit, ASSUMED)
            self.assertTrue(view.lines and view.plan.sentence and view.summary and view.title)

    def test_from_text(self) -> None:
        plan = plan_of_text(
            '{"format": "wisearc/joint", "version": 1, "joint": "butt", "members": [{"metal":'
            ' "304L", "thickness": "1 mm"}, {"metal": "304L", "thickness": "1 mm"}]}',
            ASSUMED,
        )
        self.assertEqual(plan_as_data(plan)["format"], "wisearc/plan")


if __name__ == "__main__":
    unittest.main()
