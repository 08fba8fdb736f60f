"""Changing one word of a joint, and what follows it."""

import unittest
from urllib.parse import parse_qsl

from wisearc.core.shop import ASSUMED
from wisearc.services.planning import change_link, plan_as_data, plan_of_text, view_of
from wisearc.services.word_fields import editors_for


def changed(query: str, key: str = "", habit: str = "mm"):
    """The outcome of a changed link."""
    return change_link(parse_qsl(query), key, habit)


class Following(unittest.TestCase):
    def test_a_coped_tube_makes_tubes(self) -> None:
        done = changed("joint=tube-cope&a.thickness=1.2 mm", "joint")
        self.assertEqual([m.form for m in done.joint.members], ["tube", "tube"])
        self.assertTrue(done.joint.all_round)
        self.assertTrue(any("say what it is" in s for s in done.said))

    def test_a_tube_on_plate_keeps_the_plate(self) -> None:
        done = changed("joint=tube-plate&a.thickness=1.2 mm", "joint")
        self.assertEqual([m.form for m in done.joint.members], ["tube", "sheet"])
        tubes = changed("joint=tube-plate&a.form=tube&a.thickness=1.2 mm&a.diameter=25 mm", "joint")
        self.assertEqual([m.form for m in tubes.joint.members], ["tube", "flange"])

    def test_back_to_sheet(self) -> None:
        done = changed("joint=butt&a.form=tube&a.diameter=25 mm&length=all-round&position=fixed-tube", "joint")
        self.assertEqual(([m.form for m in done.joint.members], done.joint.position.key, done.joint.length.mm), (["sheet", "sheet"], "flat", 100))

    def test_joint_follows_forms(self) -> None:
        for query, key, kind in (
            ("joint=butt&a.form=tube", "a.form", "tube-butt"),
            ("joint=butt&a.form=tube&b.form=sheet", "a.form", "tube-plate"),
            ("joint=butt&b.form=tube", "b.form", "tube-plate"),
            ("joint=tube-cope&a.form=sheet", "a.form", "butt"),
        ):
            done = changed(query, key)
            with self.subTest(query=query):
                self.assertEqual(done.joint.kind.key, kind)
                self.assertTrue(done.said)

    def test_a_third_member_comes_and_goes(self) -> None:
        more = changed("joint=tee&a.thickness=2 mm&b.metal=316L", "third.add")
        self.assertEqual([m.metal.key for m in more.joint.members], ["304L", "316L", "316L"])
        again = changed("joint=tee&a.thickness=2 mm&c.metal=316L&c.form=sheet&c.thickness=1 mm", "third.drop")
        self.assertEqual(len(again.joint.members), 2)

    def test_pedal_pulse_without_a_pedal(self) -> None:
        self.assertEqual(changed("pulse=pedal&control=none", "control").joint.pulse, "auto")

    def test_a_leg_is_asked_of_a_fillet_and_the_reach_says_what_is_taken(self) -> None:
        for kind, leg, reach in (("tee", True, "as the cup fits in"), ("lap", True, "5 mm for this joint"), ("butt", False, "5 mm for this joint")):
            fields = {f.key: f for e in editors_for(changed(f"joint={kind}", "joint").joint, "mm") for f in e.fields}
            self.assertEqual(("leg" in fields, reach in fields["reach"].hint), (leg, True), kind)

    def test_what_is_closed_off_is_a_word_where_argon_fills_it(self) -> None:
        for query, words in (
            ("joint=butt", None),
            ("joint=butt&back=purge", "a channel along it"),
            ("joint=butt&back=purge&purge_length=300 mm", "300 mm of it"),
            ("joint=butt&back=purge&purge_volume_l=2", "2 L behind it"),
        ):
            parts = [p.text() for p in view_of(changed(query, "joint").joint, "mm", ASSUMED).plan.sentence if p.word == "purge"]
            self.assertEqual(parts, [words] if words else [])

    def test_a_leg_goes_with_the_fillet(self) -> None:
        kept = changed("joint=lap&leg=2 mm", "joint")
        self.assertEqual((kept.joint.leg.mm, kept.said), (2, []))
        gone = changed("joint=butt&leg=2 mm", "joint")
        self.assertIsNone(gone.joint.leg)
        self.assertIn("A leg is of a fillet", " ".join(gone.said))

    def test_bare_numbers_mean_the_habit(self) -> None:
        self.assertAlmostEqual(changed("length=15", "length", "in").joint.length.mm, 381)
        self.assertAlmostEqual(changed("length=15", "length", "mm").joint.length.mm, 15)
        self.assertAlmostEqual(changed("travel_mm_s=8", "travel_mm_s", "in").joint.travel_mm_s, 3.386667)

    def test_what_cannot_stand_is_told_by_key(self) -> None:
        for query, key in (
            ("a.thickness=banana", "a.thickness"),
            ("gap=9 in", "gap"),
            ("joint=tube-cope&a.form=tube&a.diameter=60 mm&b.diameter=25 mm", "a.diameter"),
            ("travel_mm_s=fast", "travel_mm_s"),
            ("what=1", "what"),
        ):
            done = changed(query)
            with self.subTest(query=query):
                self.assertIsNone(done.joint)
                self.assertEqual(done.problems[0].key, key)


class Whole(unittest.TestCase):
    def test_view(self) -> None:
        done = changed("")
        for habit in ("mm", "in"):
            view = view_of(done.joint, habit, ASSUMED)
            self.assertTrue(view.lines and view.plan.sentence and view.summary and view.title)

    def test_from_text(self) -> None:
        plan = plan_of_text(
            '{"format": "wisearc/joint", "version": 1, "joint": "butt", "members": [{"metal": "304L", "thickness": "1 mm"}, {"metal": "304L", "thickness": "1 mm"}]}',
            ASSUMED,
        )
        self.assertEqual(plan_as_data(plan)["format"], "wisearc/plan")
