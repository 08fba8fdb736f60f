"""The other drawings: well formed in both habits and palettes, and true to the plan's figures."""

import re
import unittest
from xml.etree import ElementTree as ET

from tests.samples import CORNER, EVERY, TEE, member
from wisearc.core.errors import UnknownName
from wisearc.core.joint_data import make_joint
from wisearc.core.plan import Plan, make_plan
from wisearc.core.shop import ASSUMED
from wisearc.drawings import heat_across, weld_metal
from wisearc.drawings.views import VIEWS, draw

SVG = "{http://www.w3.org/2000/svg}"


def planned(data: dict) -> Plan:
    """The plan of a joint's data."""
    return make_plan(make_joint(data), ASSUMED)


def parsed(view: str, plan: Plan, habit: str = "mm") -> ET.Element:
    """A drawing as elements."""
    return ET.fromstring(draw(view, plan, habit).svg)


def bar_px(root: ET.Element, words: str) -> float:
    """Length of the scale bar that carries the words, px."""
    children = list(root)
    place = next(i for i, e in enumerate(children) if e.tag == f"{SVG}text" and e.text == words)
    x0, x1 = re.match(r"M([\d.]+) .*H([\d.]+)", children[place - 1].get("d", "")).groups()
    return float(x1) - float(x0)


class Every(unittest.TestCase):
    def test_every_joint_view_habit_and_palette(self) -> None:
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
                if p.get("stroke") == "var(--pool)" and (m := re.match(r"M([\d.]+)", p.get("d", "")))
            }
        )
        self.assertEqual(len(starts), plan.tacks.count)
        self.assertAlmostEqual((starts[2] - starts[1]) / whole, plan.tacks.pitch_mm, delta=0.3)
        px = bar_px(root, "5 mm") / 5
        circles = [float(c.get("cx")) for c in root.iter(f"{SVG}circle")]
        self.assertAlmostEqual((circles[1] - circles[0]) / px, plan.travel.pitch_mm, delta=0.02)
        self.assertAlmostEqual(
            2 * float(next(root.iter(f"{SVG}circle")).get("r")) / px, plan.travel.pool_width_mm, delta=0.02
        )

    def test_order_of_tacks_is_planned(self) -> None:
        plan = planned(TEE)
        texts = [t.text for t in parsed("seam", plan).iter(f"{SVG}text")]
        numbers = [t for t in texts if t and t.isdigit()]
        self.assertEqual(sorted(map(int, numbers)), list(range(1, plan.tacks.count + 1)))


class OverTime(unittest.TestCase):
    def test_pulse_on_time(self) -> None:
        plan = planned(CORNER)
        wave = next(e for e in parsed("time", plan).iter(f"{SVG}polyline") if len(e.get("points").split()) == 17)
        x = [float(pair.split(",")[0]) for pair in wave.get("points").split()]
        self.assertAlmostEqual((x[2] - x[1]) / (x[4] - x[0]), plan.pulse.on_pct / 100, delta=0.002)


class WeldMetal(unittest.TestCase):
    def test_ferrite_line_is_the_formula(self) -> None:
        """Séférian by hand: ferrite 10 at Nieq 10 stands at Creq 10/3 + 9.3 + 6.7 = 19.333."""
        (x0, y0), (x1, y1) = weld_metal._line(10)
        x, y = weld_metal.at(19.333, 10)
        self.assertAlmostEqual(x0 + (y - y0) / (y1 - y0) * (x1 - x0), x, delta=0.05)

    def test_mix_lies_on_the_dilution_path(self) -> None:
        plan = planned(TEE)
        root = parsed("metal", plan)
        path = [
            tuple(map(float, p.split(",")))
            for p in next(e for e in root.iter(f"{SVG}polyline") if e.get("stroke") == "var(--act)")
            .get("points")
            .split()
        ]
        mix = next(c for c in root.iter(f"{SVG}circle") if c.get("fill") == "var(--pool)")
        near = min(abs(float(mix.get("cx")) - x) + abs(float(mix.get("cy")) - y) for x, y in path)
        self.assertLess(near, 1.0)


class Heat(unittest.TestCase):
    def test_hot_band_meets_the_curve(self) -> None:
        plan = planned(CORNER)
        curve = heat_across.Curve(plan)
        self.assertAlmostEqual(curve.peak_c(plan.heat.hot_band_mm / 2), 450, delta=3)
        self.assertEqual(curve.peak_c(0), 1450)
