"""Drawings of a job: seams at the borders of their parts, and times to scale."""

import re
import unittest
from xml.etree import ElementTree as ET

from tests.jobs import STAY, generated_job, job, seam
from wisearc.core.jobs.job_data import make_job
from wisearc.core.jobs.job_plan import make_job_plan
from wisearc.core.shop.shop import ASSUMED
from wisearc.drawings.jobs.job_lay import HEIGHT, WIDTH, draw_job_lay, place_parts, place_seams
from wisearc.drawings.jobs.job_strip import LANES, LEFT, RIGHT, TOP, draw_job_strip
from wisearc.services.jobs.job_plans import plan_seams

SVG = "{http://www.w3.org/2000/svg}"


def planned(data):
    made = make_job(data)
    return make_job_plan(made, plan_seams(made, ASSUMED), ASSUMED, lambda: True)


class Lay(unittest.TestCase):
    def test_on_the_border_where_blocks_touch(self) -> None:
        about = {
            "a": {"at": [10, 10, 30, 30]},
            "b": {"at": [10, 42, 30, 30]},
            "c": {"at": [70, 10, 20, 20]},
        }
        made = make_job(
            {
                **job(
                    seam("s1", side="left"),
                    seam("s2", side="right"),
                    seam("s3", joins=("a", "c")),
                    seam("s4", joins=("a",), side="left"),
                ),
                "about": about,
            }
        )
        boxes = place_parts(made)
        marks = place_seams(made, boxes)
        (ax, ay), (bx, by) = marks["s1"].line
        self.assertEqual(ay, by)
        self.assertLess(bx, marks["s2"].line[0][0])
        # Between the lower edge of one and the upper of the other.
        self.assertAlmostEqual(ay, 12 + 306 * 0.41, 3)
        # Across the space between distant parts.
        (ax, ay), (bx, by) = marks["s3"].line
        self.assertAlmostEqual(abs(bx - ax), 612 * 0.3, 3)
        # A seam of one part is on its side.
        self.assertAlmostEqual(marks["s4"].at[0], 14 + 612 * 0.1, 3)

    def test_within_the_field_each_seam_by_its_place(self) -> None:
        for seed in range(4):
            made = planned(generated_job(8, seed))
            drawn = draw_job_lay(made, made.one, "mm", "s1", ["s2"])
            root = ET.fromstring(drawn.svg)
            links = {a.get("href"): a for a in root.iter(f"{SVG}a")}
            for i, key in enumerate(made.one.order, 1):
                self.assertEqual(links[f"?at={key}"].find(f"{SVG}text").text, str(i))
            for circle in root.iter(f"{SVG}circle"):
                self.assertTrue(
                    0 <= float(circle.get("cx")) <= WIDTH and 0 <= float(circle.get("cy")) <= HEIGHT
                )
            self.assertEqual(len(re.findall("data-part-block", drawn.svg)), len(made.job.parts))

    def test_user_text_stays_text(self) -> None:
        part = "<b>&'\""
        made = planned({**job(seam("a&b", joins=(part,))), "parts": [part]})
        drawn = draw_job_lay(made, made.one)
        self.assertIsNotNone(ET.fromstring(drawn.svg))
        self.assertNotIn("<b>", drawn.svg)
        self.assertIn("?at=a%26b", drawn.svg)


class Strip(unittest.TestCase):
    def test_lanes_add_up_to_the_items(self) -> None:
        made = planned(
            {
                **job(
                    seam("c1", side="left"),
                    seam("c2"),
                    seam("t1", STAY, ("c", "d"), face="left"),
                    seam("t2", STAY, ("c", "e")),
                )
            }
        )
        root = ET.fromstring(draw_job_strip(made, made.one).svg)
        end = made.one.steps[-1].end_s
        scale = (RIGHT - LEFT) / end
        wide: dict[str, float] = {}
        for box in root.iter(f"{SVG}polygon"):
            points = [tuple(map(float, p.split(","))) for p in box.get("points").split()]
            lane = list(LANES)[round((points[0][1] - TOP) / 27)]
            wide[lane] = wide.get(lane, 0) + points[1][0] - points[0][0]
        for lane in ("arc", "wait", "dial", "torch", "clamp"):
            self.assertAlmostEqual(
                wide.get(lane, 0) / scale,
                getattr(made.one.items, f"{lane}_s"),
                delta=0.005 * end,
                msg=lane,
            )
        self.assertGreater(wide["purge"], 0)

    def test_several_pieces_have_a_lane_for_taking_them_up(self) -> None:
        made = planned({**job(seam("c1"), seam("c2")), "quantity": 3})
        self.assertIn("another piece", draw_job_strip(made, made.all).svg)
        self.assertNotIn("another piece", draw_job_strip(made, made.one).svg)


if __name__ == "__main__":
    unittest.main()
