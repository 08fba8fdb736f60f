"""The section: to scale, well formed, escaped, with the figures of the plan."""

import math
import unittest
from xml.etree import ElementTree as ET

from tests.samples import COPE, CORNER, EVERY, TEE, member, tube
from wisearc.core.joint.data import make_joint
from wisearc.core.plan.plan import Plan, make_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.drawings.canvas import Canvas
from wisearc.drawings.plan.section_shapes import build_shapes
from wisearc.drawings.templates.cut import cut_through

SVG = "{http://www.w3.org/2000/svg}"


def planned(data: dict) -> Plan:
    """Return the plan of joint data."""
    return make_plan(make_joint(data), ASSUMED)


def points(element: ET.Element) -> list[tuple[float, float]]:
    """Return the points of a polygon."""
    return [tuple(float(v) for v in pair.split(",")) for pair in element.get("points", "").split()]


class Drawn(unittest.TestCase):
    def test_every_joint_in_both_unit_systems_and_palettes(self) -> None:
        for name, data in EVERY.items():
            for back in ("auto", "purge", "copper-bar", "steel-bar", "open"):
                plan = planned({**data, "back": back})
                for habit, palette in (("mm", "screen"), ("in", "screen"), ("mm", "paper")):
                    with self.subTest(joint=name, back=back, habit=habit, palette=palette):
                        root = ET.fromstring(cut_through(plan, habit, palette).svg)
                        self.assertEqual(root.get("role"), "img")
                        self.assertTrue(root.findtext(f"{SVG}desc"))
                        self.assertEqual(
                            "var(--" in ET.tostring(root, encoding="unicode"), palette == "screen"
                        )

    def test_everything_stays_on_the_sheet(self) -> None:
        for name, data in EVERY.items():
            root = ET.fromstring(cut_through(planned(data)).svg)
            _, _, width, height = (float(v) for v in root.get("viewBox", "").split())
            for text in root.iter(f"{SVG}text"):
                with self.subTest(joint=name, text=text.text):
                    long = len(text.text or "") * 7.2
                    x = (
                        float(text.get("x", 0))
                        - {"start": 0, "middle": long / 2, "end": long}[
                            text.get("text-anchor", "start")
                        ]
                    )
                    self.assertTrue(
                        x >= -12
                        and x + long <= width + 12
                        and 8 <= float(text.get("y", 0)) <= height
                    )

    def test_to_scale(self) -> None:
        """The scale bar of 5 mm measures the sheet.

        1.5 mm thickness, and the bore between the walls of the cup.
        """
        plan = planned({"joint": "butt", "members": [member(), member()]})
        root = ET.fromstring(cut_through(plan).svg)
        bar = next(p for p in root.iter(f"{SVG}path") if "V" in p.get("d", ""))
        x0, x1 = (
            float(bar.get("d").split("M")[1].split(" ")[0]),
            float(bar.get("d").split("H")[1].split("V")[0]),
        )
        px_mm = (x1 - x0) / 5
        sheets = [
            points(p)
            for p in root.iter(f"{SVG}polygon")
            if p.get("fill") in ("var(--steel)", "var(--steel-2)")
        ]
        heights = {round((max(y for _, y in s) - min(y for _, y in s)) / px_mm, 2) for s in sheets}
        self.assertIn(1.5, heights)
        cups = [points(p) for p in root.iter(f"{SVG}polygon") if p.get("fill") == "var(--ceramic)"]
        inner = min(x for x, _ in cups[1]) - max(x for x, _ in cups[0])
        self.assertAlmostEqual(inner / px_mm, plan.torch.bore_mm, delta=0.05)

    def test_title_is_escaped(self) -> None:
        canvas = Canvas(10, 10, "<script>", "a & b")
        canvas.text((0, 0), "<b>")
        self.assertNotIn("<script>", canvas.svg())
        self.assertIn("&lt;b&gt;", canvas.svg())


class Shapes(unittest.TestCase):
    def test_corner_opens_at_its_angle(self) -> None:
        for angle in (60, 90, 120):
            shapes = build_shapes(planned({**CORNER, "angle_deg": angle}))
            (ax, ay), (bx, by) = shapes.arms[0].direction, shapes.arms[1].direction
            self.assertAlmostEqual(math.degrees(math.acos(ax * bx + ay * by)), angle, places=6)

    def test_torch_halves_the_fillet(self) -> None:
        self.assertEqual(build_shapes(planned(TEE)).tilt_deg, 45)
        # A cope at its heel.
        self.assertEqual(build_shapes(planned(COPE)).tilt_deg, 67.5)

    def test_third_member(self) -> None:
        """Drawn with its thickness.

        Next to the second along an edge, or else behind the seam; the bar behind makes room.
        """
        for kind, way in (
            ("tee", (0, 1)),
            ("butt", (0, 1)),
            ("lap", (0, 1)),
            ("outside-corner", (0, 1)),
            ("edge", (0, 1)),
        ):
            plan = planned(
                {"joint": kind, "members": [member(), member(), member(thickness="2 mm")]}
            )
            shapes = build_shapes(plan)
            with self.subTest(joint=kind):
                self.assertEqual(
                    (shapes.third.thickness_mm, shapes.third.direction, len(shapes.drawn)),
                    (2.0, way, len(shapes.arms) + 1),
                )
        tee = {"joint": "tee", "members": [member(), member(), member()]}
        two, three = (
            cut_through(planned({**tee, "members": tee["members"][:n]})).svg.count("var(--copper)")
            for n in (2, 3)
        )
        self.assertEqual(three, two + 1)

    def test_cup_does_not_cut_into_the_members(self) -> None:
        """At a tee, an inside corner, a socket and the heel of a cope, the cup clears both."""
        for kind, angle in (
            ("tee", 90),
            ("tee", 60),
            ("inside-corner", 75),
            ("tube-socket", 90),
            ("tube-cope", 45),
            ("tube-cope", 70),
        ):
            tubes = kind.startswith("tube")
            a = tube() if tubes else member()
            b = (
                tube(diameter="51 mm")
                if kind == "tube-cope"
                else member("316L", "4 mm", form="flange")
                if tubes
                else member()
            )
            plan = planned(
                {
                    "joint": kind,
                    "members": [a, b],
                    "angle_deg": angle,
                    **({"length": "all-round"} if tubes else {}),
                }
            )
            reach = (plan.torch.stickout_mm + plan.travel.arc_length_mm) / math.cos(0)
            self.assertGreaterEqual(
                reach * math.tan(math.radians(angle) / 2), plan.torch.bore_mm / 2, (kind, angle)
            )

    def test_bars_leave_room_for_the_cup(self) -> None:
        """No bar on the near face of a fillet or lap.

        Next to a flat seam it is thin enough for the cup.
        """
        for kind in ("tee", "lap", "inside-corner"):
            self.assertFalse(
                any(
                    arm.near_bar
                    for arm in build_shapes(
                        planned({"joint": kind, "members": [member(), member()]})
                    ).arms
                ),
                kind,
            )
        short = {"joint": "butt", "members": [member(), member()], "reach": "2.5 mm"}
        self.assertNotEqual(
            cut_through(planned(short)).svg, cut_through(planned({**short, "reach": "5 mm"})).svg
        )
