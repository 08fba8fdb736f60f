"""The reach into an opening against a corner in space: the rim of a cup moved in to both sides.

Geometry alone. The factor 1.07 of the product for a push of 15° is exact at 90° and safe in smaller
openings.
"""

import math
import unittest

from wisearc.core.plan.torch.front_end import cup_rests_mm

PUSH, ARC = math.radians(15), 1.5


def touches_mm(radius: float, opening_deg: float, push: float) -> float:
    """Return the distance along the axis at which a rim touches both sides of an opening.

    The rim is scanned. x across, y along the bisector, z along the seam; the axis leans by the push
    from y to z.
    """
    slope, best = math.tan(opening_deg / 2), 0.0
    for i in range(3600):
        phi = 2 * math.pi * i / 3600
        across, down = radius * math.cos(phi), radius * math.sin(phi) * math.sin(push)
        # Inside while |x| ≤ y · slope, with y = s cos(push) − down.
        best = max(best, (abs(across) / slope + down) / math.cos(push))
    return best


class Corner(unittest.TestCase):
    def test_upright(self) -> None:
        """Check values of the trade without push, no. 6, 8, 10, 12 and 16: an estimate."""
        for opening_deg, values in (
            (90, (5.3, 6.9, 8.4, 10.0, 13.2)),
            (60, (10.2, 13, 15.7, 18.5, 24.0)),
            (45, (14.8, 18.7, 22.5, 26.3, 34.0)),
            (30, (24, 30, 36, 42, 53.4)),
        ):
            for cup, out in zip((6, 8, 10, 12, 16), values, strict=True):
                radius = cup * 25.4 / 32 + 2
                self.assertAlmostEqual(
                    touches_mm(radius, math.radians(opening_deg), 0.0) - ARC, out, delta=0.6
                )
                self.assertAlmostEqual(
                    (cup_rests_mm(cup, opening_deg) + ARC) / 1.07 - ARC, out, delta=0.6
                )

    def test_pushed(self) -> None:
        for opening_deg in range(20, 151, 5):
            for cup in (4, 6, 8, 12, 16):
                drawn = touches_mm(cup * 25.4 / 32 + 2, math.radians(opening_deg), PUSH)
                got = cup_rests_mm(cup, opening_deg) + ARC
                with self.subTest(opening=opening_deg, cup=cup):
                    self.assertTrue(
                        0.999 <= got / drawn <= 1.04
                        if opening_deg <= 90
                        else 0.7 <= got / drawn <= 1.001
                    )
        self.assertAlmostEqual(
            cup_rests_mm(8, 90) + ARC, touches_mm(8.35, math.pi / 2, PUSH), delta=0.02
        )


if __name__ == "__main__":
    unittest.main()
