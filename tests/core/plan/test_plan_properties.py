"""Properties of every plan: finite, sourced, monotonic by the trade, equal in both unit systems."""

import itertools
import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.samples import EVERY, member, plan, tube
from tests.schemas import check
from tests.untraced import Untraced
from wisearc.core import catalogue
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import make_plan
from wisearc.core.quantities import UNIT_SYSTEMS
from wisearc.core.shop.shop import ASSUMED
from wisearc.formats.plan_json import plan_data

SETTINGS = settings(deadline=None, database=None, derandomize=True, max_examples=80)
SHEETS = ("butt", "lap", "tee", "outside-corner", "edge")


def numbers(value):
    """Every number in nested data."""
    if isinstance(value, dict):
        for item in value.values():
            yield from numbers(item)
    elif isinstance(value, list):
        for item in value:
            yield from numbers(item)
    elif isinstance(value, int | float) and not isinstance(value, bool):
        yield value


def data(kind: str, a: str, b: str, t: float, u: float) -> dict:
    """A joint's data of a kind, two metals and two thicknesses."""
    of = catalogue.load_joint_kinds()[kind]
    if of.forms == "tube":
        first, second = (
            tube(a, f"{t} mm", "30 mm"),
            tube(b, f"{u} mm", "51 mm" if of.has("cope") else "30 mm"),
        )
    elif of.forms == "stud":
        first, second = member(a, f"{t} mm"), member(b, f"{max(0.8, u)} mm", form="rod")
    elif of.forms == "tube-plate":
        first, second = tube(a, f"{t} mm", "30 mm"), member(b, f"{u} mm", form="flange")
    else:
        first, second = member(a, f"{t} mm"), member(b, f"{u} mm")
    return {
        "joint": kind,
        "members": [first, second],
        "length": "all-round" if "tube" in kind else "200 mm",
    }


class Every(Untraced):
    def test_all_metals_pairwise_by_all_joints_thin_and_thick(self) -> None:
        """No exception, and every number finite."""
        pairs = itertools.combinations_with_replacement(catalogue.load_metals(), 2)
        for i, ((a, b), kind) in enumerate(itertools.product(pairs, catalogue.load_joint_kinds())):
            # thin and thick by turns: each kind of joint and each metal has both many times
            t = (0.5, 3.2)[(i + i // len(catalogue.load_joint_kinds())) % 2]
            p = make_plan(make_joint(data(kind, a, b, t, t)), ASSUMED)
            self.assertTrue(
                math.isfinite(p.current.steady_a + p.gas.argon_l + p.heat.tail_mm), (a, b, kind, t)
            )

    @SETTINGS
    @given(
        st.sampled_from(sorted(catalogue.load_joint_kinds())),
        st.sampled_from(sorted(catalogue.load_metals())),
        st.sampled_from(sorted(catalogue.load_metals())),
        st.floats(0.5, 6),
        st.floats(0.5, 6),
        st.sampled_from(["dry", "wet", "food", "hot", "structural"]),
        st.sampled_from(["pedal", "slide", "none"]),
        st.sampled_from(["auto", "none", "slow-cold", "ripple", "fast", "focused"]),
        st.floats(0, 2),
    )
    def test_plans_are_finite_and_follow_the_schema(
        self, kind, a, b, t, u, service, control, pulse, gap
    ) -> None:
        joint = make_joint(
            {
                **data(kind, a, b, round(t, 2), round(u, 2)),
                "service": service,
                "control": control,
                "pulse": pulse,
                "gap_mm": gap,
            }
        )
        written = plan_data(make_plan(joint, ASSUMED))
        self.assertTrue(all(math.isfinite(n) for n in numbers(written)))
        check("plan", written)
        for part in written.values():
            for reason in (
                (*part.get("why", []), *part.get("others", [])) if isinstance(part, dict) else ()
            ):
                self.assertTrue(reason["text"] and reason["source"])

    def test_every_answer_has_a_reason(self) -> None:
        for name, joint in EVERY.items():
            p = make_plan(make_joint(joint), ASSUMED)
            for choice in p.choices:
                with self.subTest(joint=name, choice=type(choice).__name__):
                    braze_or_steel = choice.part == "weld_metal" and not p.section.stainless_sides
                    self.assertTrue(choice.why or braze_or_steel)
                    for reason in choice.why:
                        for habit in UNIT_SYSTEMS:
                            self.assertTrue(reason.sentence.text(habit).endswith("."))
                        self.assertEqual(reason.formula == "", reason.worked is None)

    def test_every_answer_opens_to_a_formula_or_rule_with_its_numbers(self) -> None:
        from wisearc.formats.plan_lines import plan_lines

        for name, joint in EVERY.items():
            for line in plan_lines(make_plan(make_joint(joint), ASSUMED)):
                with self.subTest(joint=name, answer=line.key):
                    self.assertTrue(
                        any(why.formula and why.worked and why.title for why in line.why)
                    )


class Monotone(Untraced):
    def test_more_thickness_more_current(self) -> None:
        for kind in SHEETS:
            amps = [
                plan(kind, member(thickness=f"{t} mm")).current
                for t in (0.5, 0.8, 1.0, 1.5, 2.0, 2.4, 3.0, 3.2, 4.0)
            ]
            self.assertEqual([c.bench_rule_a for c in amps], sorted(c.bench_rule_a for c in amps))

    def test_more_thickness_more_heat_flow_at_one_travel(self) -> None:
        amps = [
            plan("butt", member(thickness=f"{t} mm"), travel_mm_s=3.0).current.heat_flow_a
            for t in (0.5, 1.0, 1.5, 2.0, 3.0)
        ]
        self.assertEqual(amps, sorted(amps))

    def test_faster_travel_less_heat_input(self) -> None:
        inputs = [plan("butt", travel_mm_s=v).heat.heat_input_kj_mm for v in (1.5, 2.5, 3.5, 5.0)]
        self.assertEqual(inputs, sorted(inputs, reverse=True))

    def test_more_dilution_less_ferrite_on_steel(self) -> None:
        made = [
            plan("tee", member(), member("mild-steel"), leg=f"{leg} mm", filler="ER309L").weld_metal
            for leg in (3, 2, 1.5, 1)
        ]
        self.assertEqual([w.dilution for w in made], sorted(w.dilution for w in made))
        ferrite = [w.ferrite_pct or 0.0 for w in made]
        self.assertEqual(ferrite, sorted(ferrite, reverse=True))


class Units(unittest.TestCase):
    @SETTINGS
    @given(st.integers(20, 125), st.integers(2, 20), st.sampled_from(SHEETS))
    def test_same_joint_in_inches_and_millimetres(self, thou, inches, kind) -> None:
        inch = {
            "joint": kind,
            "members": [member(thickness=f".{thou:03d}")] * 2,
            "length": f"{inches} in",
        }
        sheet = {"metal": "304L", "thickness_mm": thou * 0.0254}
        a = make_plan(make_joint(inch), ASSUMED)
        mm = make_plan(
            make_joint({"joint": kind, "members": [sheet] * 2, "length_mm": inches * 25.4}), ASSUMED
        )
        # a figure that lies between two of the last decimal kept may fall either way
        self.assertAlmostEqual(a.current.steady_a, mm.current.steady_a, delta=0.11)
        self.assertAlmostEqual(a.gas.argon_l, mm.gas.argon_l, delta=0.11)
        self.assertEqual(
            (a.torch.cup, a.tacks.count, a.pulse.school),
            (mm.torch.cup, mm.tacks.count, mm.pulse.school),
        )
