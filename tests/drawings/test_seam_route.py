"""Seams in the layout of a job run round other parts."""

import random
import unittest

from tests.jobs import CORNER, seam
from wisearc.core.jobs.job_data import make_job
from wisearc.drawings.jobs.job_lay import _convert_to_px, place_parts, place_seams
from wisearc.drawings.jobs.seam_route import crosses, route_seam


class Route(unittest.TestCase):
    def test_a_block_in_between(self) -> None:
        first, second, between = (
            (0.0, 0.0, 40.0, 40.0),
            (200.0, 0.0, 40.0, 40.0),
            (100.0, 0.0, 40.0, 40.0),
        )
        self.assertTrue(crosses(((40, 20), (200, 20)), [between]))
        self.assertFalse(crosses(((40, 20), (200, 20)), [(100, 30, 40, 40)]))
        mark = route_seam(first, second, [between], 0.0)
        assert mark is not None
        self.assertFalse(crosses(mark.line, [between]))
        # From one block to the other, along the axes.
        self.assertEqual((mark.line[0][0], mark.line[-1][0]), (20.0, 220.0))
        for a, b in zip(mark.line, mark.line[1:], strict=False):
            self.assertTrue(a[0] == b[0] or a[1] == b[1])
        self.assertFalse(crosses([mark.at, mark.at], [between]))

    def test_no_way(self) -> None:
        walls = [
            (-30.0, -30.0, 20.0, 120.0),
            (60.0, -30.0, 20.0, 120.0),
            (-30.0, -30.0, 110.0, 20.0),
            (-30.0, 70.0, 110.0, 20.0),
        ]
        self.assertIsNone(route_seam((0, 0, 40, 40), (200, 0, 40, 40), walls, 0.0))

    def test_no_seam_of_a_default_layout_crosses_a_part(self) -> None:
        for seed in range(40):
            rng = random.Random(seed)
            parts = [f"p{i}" for i in range(rng.randint(2, 24))]
            seams = [
                seam(
                    f"s{i}",
                    CORNER,
                    tuple(rng.sample(parts, min(len(parts), rng.choice((1, 2, 2))))),
                )
                for i in range(rng.randint(1, 30))
            ]
            job = make_job({"title": "x", "parts": parts, "seams": seams})
            boxes = place_parts(job)
            for key, mark in place_seams(job, boxes).items():
                others = [
                    _convert_to_px(b) for n, b in boxes.items() if n not in job.seam(key).joins
                ]
                self.assertFalse(crosses(mark.line, others), (seed, key))
