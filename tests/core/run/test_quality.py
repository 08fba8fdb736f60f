"""The quality of a run, by every tint, face, service, flaw, coupon and kind of sides.

Silver to straw is good, up to blue acceptable with light corrosion duty, grey is not shielded: heat
tints of 304-type stainless as in the usual published tables, from memory. Tints show nothing of
carbon steel, liquids need untinted metal, and a coupon should break in the sheet: common practice,
no source.
"""

import itertools
import unittest

from tests.samples import EVERY, member, plan, run, typed
from wisearc.core import catalogue
from wisearc.core.errors import InputError
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.run.inspection import BACK_COLOURS, FRONT_COLOURS
from wisearc.core.run.quality import Observed, find_earlier_flaw, find_observed, judge_quality
from wisearc.core.run.verification import (
    build_ranges,
    check_good,
    check_second_inspection,
    judge_run,
)
from wisearc.core.shop.shop import ASSUMED

# The verdict for each tint on stainless: in dry air, in heat or under load; in liquid.
STAINLESS = {
    "silver": ("good", "good"),
    "straw": ("good", "good"),
    "brown": ("acceptable", "not-good"),
    "purple": ("acceptable", "not-good"),
    "blue": ("acceptable", "not-good"),
    "grey": ("not-good", "not-good"),
}
WORST = ("good", "acceptable", "not-good")
SERVICES = {"dry": False, "hot": False, "structural": False, "wet": True, "food": True}
SIDES = {
    "stainless": [member("304L"), member("316L")],
    "carbon": [member("mild-steel"), member("mild-steel")],
    "mixed": [member("304L"), member("mild-steel")],
}


def expected(front: str, back: str, service: str, sides: str, flaw: str | None) -> str:
    """The verdict by the tables above."""
    if flaw or back == "sugar":
        return "not-good"
    unseen = "acceptable" if back == "not-seen" else "good"
    if sides == "carbon":
        return unseen
    told = [STAINLESS[tint][SERVICES[service]] for tint in (front, back) if tint in STAINLESS]
    return max((*told, unseen), key=WORST.index)


class Table(unittest.TestCase):
    def test_every_tint_face_service_flaw_and_side(self) -> None:
        flaws = (None, *catalogue.load_flaws())
        for sides, members in SIDES.items():
            for service in SERVICES:
                joint = {"joint": "butt", "members": members, "service": service}
                of = make_plan(make_joint(joint), ASSUMED)
                for front, back, flaw in itertools.product(FRONT_COLOURS, BACK_COLOURS, flaws):
                    seen = Observed(front, back, (flaw,) if flaw else ())
                    with self.subTest(
                        sides=sides, service=service, front=front, back=back, flaw=flaw
                    ):
                        self.assertEqual(
                            judge_run(seen, of).verdict,
                            expected(front, back, service, sides, flaw),
                        )

    def test_failed_coupon_and_weight_of_an_inspection(self) -> None:
        bad = find_observed(typed(run(coupon={"bend": "toe"})))
        self.assertEqual(judge_quality(bad, stainless=True, in_liquid=False).verdict, "not-good")
        for seen in (
            {"edges": "undercut"},
            {"ripple": "tails"},
            {"look": "proud"},
            {"told": {"sugar": True}},
            {"back_tint": "grey"},
        ):
            with self.subTest(seen=seen):
                quality = judge_quality(
                    find_observed(typed(run(seen=seen))), stainless=True, in_liquid=False
                )
                self.assertEqual(quality.verdict, "not-good")

    def test_reasons_name_the_side_and_the_expected_result(self) -> None:
        for seen, words in (
            (Observed("grey", "silver"), "Grey face"),
            (Observed("silver", "grey"), "Grey root"),
            (Observed("grey", "grey"), "Grey face and root"),
            (Observed("straw", "blue"), "Tint beyond straw on the root"),
            (Observed("straw", "not-seen"), "The root was not checked"),
        ):
            reason = judge_quality(seen, stainless=True, in_liquid=False).reason.text()
            self.assertIn(words, reason)


class Verification(unittest.TestCase):
    def refused(self, joint: dict, minor: int = 6, **more) -> str:
        of = make_plan(make_joint(joint), ASSUMED)
        try:
            check_good(typed(run(joint, **more)), of, build_ranges(of), minor)
        except InputError as error:
            return error.rule
        return ""

    def test_only_not_good_refuses(self) -> None:
        dry, wet = EVERY["butt"], {**EVERY["butt"], "service": "wet"}
        self.assertEqual(self.refused(dry, back={"colour": "blue"}), "")
        self.assertIn("beyond straw", self.refused(wet, back={"colour": "brown"}))
        self.assertIn("Grey root", self.refused(dry, back={"colour": "grey"}))
        self.assertIn("Pores", self.refused(dry, faults=["pores"]))

    def test_earlier_run_keeps_the_rule_it_passed(self) -> None:
        wet = {**EVERY["butt"], "service": "wet"}
        self.assertEqual(self.refused(wet, back={"colour": "grey"}, minor=5), "")
        self.assertIn("grey", self.refused(wet, front={"colour": "grey"}, minor=5))
        self.assertNotEqual(self.refused(wet, back={"colour": "grey"}, minor=6), "")
        self.assertIsNone(find_earlier_flaw(typed(run(back={"colour": "grey"}))))
        for more in (
            {"faults": ["pores"]},
            {"back": {"colour": "sugar"}},
            {"coupon": {"bend": "weld"}},
        ):
            with self.subTest(more=more):
                self.assertIsNotNone(find_earlier_flaw(typed(run(**more))))

    def test_a_closer_look_takes_back_no_verification(self) -> None:
        self.assertEqual(self.refused(EVERY["butt"], seen={"edges": "undercut"}), "")

    def test_good_run_on_a_plan_with_cautions_needs_a_second_inspection(self) -> None:
        fast = {**EVERY["butt"], "pins": {"flow_l_min": 18}}
        cautioned = make_plan(make_joint(fast), ASSUMED)
        self.assertIn("gas-turbulent", [c.code for c in cautioned.cautions])
        check_second_inspection(cautioned, True, True)
        check_second_inspection(cautioned, False, False)
        with self.assertRaisesRegex(InputError, "Check them and tick the box"):
            check_second_inspection(cautioned, True, False)
        check_second_inspection(plan("butt"), True, False)


if __name__ == "__main__":
    unittest.main()
