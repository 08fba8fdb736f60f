"""The other drawings: well formed in both units and palettes, with the figures of the plan."""

import math
import re
import unittest
from xml.etree import ElementTree as ET

from msgspec.structs import replace

from tests.samples import CORNER, EVERY, TEE, member
from wisearc.core.errors import UnknownName
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.drawings.plan import heat_across, weld_metal
from wisearc.drawings.plan.views import VIEWS, draw

SVG = "{http://www.w3.org/2000/svg}"


def planned(data: dict) -> Plan:
    """Return the plan of joint data."""
    return make_plan(make_joint(data), ASSUMED)


def parsed(view: str, plan: Plan, habit: str = "mm") -> ET.Element:
    """Return a drawing as elements."""
    return ET.fromstring(draw(view, plan, habit).svg)


def bar_px(root: ET.Element, words: str) -> float:
    """Return the length of the scale bar with a text, px."""
    children = list(root)
    place = next(i for i, e in enumerate(children) if e.tag == f"{SVG}text" and e.text == words)
    x0, x1 = re.match(r"M([\d.]+) .*H([\d.]+)", children[place - 1].get("d", "")).groups()
    return float(x1) - float(x0)


class Every(unittest.TestCase):
    def test_every_joint_view_unit_system_and_palette(self) -> None:
        cases = [
            *EVERY.values(),
            {**TEE, "control": "none"},
            {**CORNER, "pulse": "pedal"},
            {"joint": "butt", "members": [member("mild-steel")] * 2},
            {"joint": "butt", "members": [member("201")] * 2, "filler": "ERCuSi-A"},
        ]
        for data in cases:
            plan = planned(data)
            for view in VIEWS:
                for habit, palette in (("mm", "screen"), ("in", "paper")):
                    drawing = draw(view, plan, habit, palette)
                    root = ET.fromstring(drawing.svg)
                    with self.subTest(joint=data["joint"], view=view):
                        self.assertTrue(drawing.words.endswith("."))
                        self.assertEqual(root.findtext(f"{SVG}desc"), drawing.words)
                        for element in root.iter():
                            for value in element.attrib.values():
                                self.assertNotRegex(value, r"\bnan\b|\binf\b")

    def test_unknown_view(self) -> None:
        with self.assertRaises(UnknownName):
            draw("hat", planned(TEE))


class Seam(unittest.TestCase):
    def test_tacks_and_ripple_to_scale(self) -> None:
        plan = planned(CORNER)
        root = parsed("seam", plan)
        whole = bar_px(root, "50 mm") / 50
        starts = sorted(
            {
                float(m[1])
                for p in root.iter(f"{SVG}path")
                if p.get("stroke") == "var(--pool)"
                and (m := re.match(r"M([\d.]+)", p.get("d", "")))
            }
        )
        self.assertEqual(len(starts), plan.tacks.count)
        self.assertAlmostEqual((starts[2] - starts[1]) / whole, plan.tacks.pitch_mm, delta=0.3)
        px = bar_px(root, "5 mm") / 5
        circles = [float(c.get("cx")) for c in root.iter(f"{SVG}circle")]
        self.assertAlmostEqual((circles[1] - circles[0]) / px, plan.travel.pitch_mm, delta=0.02)
        self.assertAlmostEqual(
            2 * float(next(root.iter(f"{SVG}circle")).get("r")) / px,
            plan.travel.pool_width_mm,
            delta=0.02,
        )

    def test_order_of_tacks_is_planned(self) -> None:
        plan = planned(TEE)
        texts = [t.text for t in parsed("seam", plan).iter(f"{SVG}text")]
        numbers = [t for t in texts if t and t.isdigit()]
        self.assertEqual(sorted(map(int, numbers)), list(range(1, plan.tacks.count + 1)))


class Bounded(unittest.TestCase):
    """Any saved plan gives a limited number of marks, with a note about omitted ones."""

    MOST = 1000

    def kept(self, **parts: dict) -> Plan:
        """Return a plan as from a file, with changed figures."""
        plan = planned({**CORNER, "pulse": "ripple"})
        return replace(
            plan,
            **{name: replace(getattr(plan, name), **figures) for name, figures in parts.items()},
        )

    def test_whatever_was_kept(self) -> None:
        many = tuple(float(i) for i in range(2000))
        for parts in (
            {"travel": {"pitch_mm": 1e-6}},
            {"travel": {"pitch_mm": 1e-6, "pool_width_mm": 1e5}},
            {"heat": {"hot_band_mm": 1e7}},
            {"heat": {"hot_band_mm": 1e-9}},
            {"back": {"bar_lengths": 100_000}},
            {"tacks": {"count": 2000, "positions_mm": many, "order": tuple(range(2000))}},
            {"torch": {"cover_mm": 1e7}},
            {"travel": {"length_mm": 1e-9}},
            {"gas": {"preflow_s": 1e6, "postflow_s": 0.0}},
        ):
            plan = self.kept(**parts)
            for view in VIEWS:
                for habit in ("mm", "in"):
                    drawing = draw(view, plan, habit)
                    with self.subTest(view=view, parts=str(parts)[:60]):
                        self.assertLess(len(list(ET.fromstring(drawing.svg).iter())), self.MOST)
                        self.assertNotRegex(drawing.svg, "nan|inf[^o]")

    def test_abbreviation_is_explained(self) -> None:
        words = draw(
            "seam", planned({**CORNER, "length": "20000 mm", "pins": {"tack_pitch_mm": 12}}), "mm"
        )
        self.assertIn("One tack in 9 is drawn", words.words)
        self.assertIn("one tack in 9 is drawn", words.svg)
        self.assertIn(
            "One ripple in ", draw("seam", self.kept(travel={"pitch_mm": 0.01}), "mm").words
        )
        self.assertIn(
            "One bar position in 3 is drawn",
            draw("seam", self.kept(back={"bar_lengths": 500}), "mm").words,
        )
        self.assertNotIn("is drawn", draw("seam", planned(CORNER), "mm").words)

    def test_just_as_many_as_are_drawn(self) -> None:
        for count, one_in in ((200, 1), (201, 2), (400, 2), (401, 3)):
            many = tuple(i * 380 / count for i in range(count))
            svg = draw(
                "seam",
                self.kept(
                    tacks={"count": count, "positions_mm": many, "order": tuple(range(count))}
                ),
                "mm",
            ).svg
            marks = svg.count('stroke-width="7"')
            self.assertEqual(marks, -(-count // one_in), count)


class OverTime(unittest.TestCase):
    def test_pulse_on_time(self) -> None:
        plan = planned(CORNER)
        wave = next(
            e
            for e in parsed("time", plan).iter(f"{SVG}polyline")
            if len(e.get("points").split()) == 17
        )
        x = [float(pair.split(",")[0]) for pair in wave.get("points").split()]
        self.assertAlmostEqual((x[2] - x[1]) / (x[4] - x[0]), plan.pulse.on_pct / 100, delta=0.002)


class WeldMetal(unittest.TestCase):
    def test_ferrite_line_is_the_formula(self) -> None:
        """Séférian calculated manually.

        Ferrite 10 at Nieq 10 is at Creq 10/3 + 9.3 + 6.7 = 19.333.
        """
        (x0, y0), (x1, y1) = weld_metal._find_ferrite_line(10)
        x, y = weld_metal.place_equivalents(19.333, 10)
        self.assertAlmostEqual(x0 + (y - y0) / (y1 - y0) * (x1 - x0), x, delta=0.05)

    def test_mix_lies_on_the_dilution_path(self) -> None:
        plan = planned(TEE)
        root = parsed("metal", plan)
        path = [
            tuple(map(float, p.split(",")))
            for p in (
                next(e for e in root.iter(f"{SVG}polyline") if e.get("stroke") == "var(--act)")
                .get("points")
                .split()
            )
        ]
        mix = next(c for c in root.iter(f"{SVG}circle") if c.get("fill") == "var(--pool)")
        (x0, y0), (x1, y1) = path[0], path[-1]
        x, y = float(mix.get("cx")), float(mix.get("cy"))
        off = abs((x1 - x0) * (y - y0) - (y1 - y0) * (x - x0)) / math.hypot(x1 - x0, y1 - y0)
        self.assertLess(off, 1.0)


class Heat(unittest.TestCase):
    def test_hot_band_meets_the_curve(self) -> None:
        plan = planned(CORNER)
        curve = heat_across.Curve(plan)
        self.assertAlmostEqual(curve.peak_c(plan.heat.hot_band_mm / 2), 450, delta=3)
        self.assertEqual(curve.peak_c(0), 1450)
