"""Dilution against the lever rule, calculated manually.

Ferrite (Séférian 1959) and martensite start (Eichelman and Hull 1953) are linear in each element.
Along a mix of two ends, the dilution for a value is a ratio of lengths. Analyses from memory of the
usual mill and rod analyses, without any calculation of the product.
"""

import unittest

from tests.samples import joint, member
from wisearc.core import catalogue
from wisearc.core.joint.section import build_section
from wisearc.core.plan.filler_metal.feeding import find_limits

# C, Mn, Si, Cr, Ni, Mo, N
ENDS = {
    "304L": (0.02, 1.5, 0.45, 18.2, 8.1, 0.2, 0.07),
    "316L": (0.02, 1.5, 0.45, 16.8, 10.1, 2.1, 0.05),
    "sheet": (0.06, 0.35, 0.03, 0, 0, 0, 0.005),
    "bar": (0.16, 0.6, 0.1, 0, 0, 0, 0.005),
    "ER309L": (0.015, 1.8, 0.4, 23.7, 13.5, 0.1, 0.05),
    "ER309LMo": (0.015, 1.6, 0.4, 23.3, 13.3, 2.5, 0.05),
    "ER312": (0.10, 1.7, 0.4, 30.0, 9.0, 0.1, 0.04),
}


def ferrite(c: float, mn: float, si: float, cr: float, ni: float, mo: float, _n: float) -> float:
    """Return 3 (Cr + Mo + 1.5 Si − 0.93 (Ni + 30 C + 0.5 Mn) − 6.7), without a minimum."""
    return 3 * (cr + mo + 1.5 * si - 0.93 * (ni + 30 * c + 0.5 * mn) - 6.7)


def start_c(c: float, mn: float, si: float, cr: float, ni: float, _mo: float, n: float) -> float:
    """Return the martensite start, °C."""
    return (
        75 * (14.6 - cr)
        + 110 * (8.9 - ni)
        + 60 * (1.33 - mn)
        + 50 * (0.47 - si)
        + 3000 * (0.068 - c - n)
        - 32
    ) / 1.8


class Lever(unittest.TestCase):
    def test_solved_by_the_lever(self) -> None:
        for rod in ("ER309L", "ER309LMo", "ER312"):
            for metal in ("304L", "316L"):
                for form in ("sheet", "bar"):
                    made = joint("tee", member(metal), member("mild-steel", "3 mm", form=form))
                    limits = find_limits(made, build_section(made), catalogue.load_rods()[rod])
                    for share, got in (
                        (0.5, limits.even),
                        (0.3, limits.leaning),
                        (0.3, limits.design),
                    ):
                        base = tuple(
                            share * a + (1 - share) * b
                            for a, b in zip(ENDS[metal], ENDS[form], strict=True)
                        )
                        levers = []
                        for curve, value in ((ferrite, 3.0), (start_c, 20.0)):
                            at_rod, at_base = curve(*ENDS[rod]), curve(*base)
                            levers.append((at_rod - value) / (at_rod - at_base))
                        with self.subTest(rod=rod, metal=metal, form=form, share=share):
                            self.assertAlmostEqual(got, min(levers), delta=1e-3)


if __name__ == "__main__":
    unittest.main()
