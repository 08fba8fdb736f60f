"""The energy balance of fillets against the check values of the trade, and against enthalpy.

Check values: estimates of the trade handbook, no published source. Enthalpy of steel: about 1.05
kJ/g to the liquidus and 0.25 kJ/g of melting, 7.85 g/cm³ cold at room temperature (usual tables of
iron and steel, from memory).
"""

import math
import unittest

from wisearc.core.physics.fillet import (
    MELTING_J_MM3,
    default_leg_mm,
    deposit_section_mm2,
    feed_mm_min,
    fillet_dilution,
    fillet_pool_mm,
    fillet_travel_mm_s,
    leg_for_dilution_mm,
    melted_section_mm2,
    melting_efficiency,
)


class Checks(unittest.TestCase):
    def test_dilution_on_1_5_mm(self) -> None:
        """Leg 2.1 gives 0.43, 2.4 (1.6 t) 0.40, 3 0.34, 4 0.27."""
        for leg, dilution in ((2.1, 0.43), (2.4, 0.40), (3, 0.34), (4, 0.27)):
            self.assertAlmostEqual(fillet_dilution(leg, 1.5), dilution, delta=0.007)

    def test_tee_of_1_5_mm(self) -> None:
        """62 A, leg 2.1: 2.7 mm/s at 10.5 V, 2.5 at 10 V.

        A feed of about 410 mm/min of 1.1 mm rod, 190 of 1.6 mm.
        """
        for volts, speed in ((10.5, 2.7), (10.0, 2.5)):
            got = fillet_travel_mm_s(0.6 * volts * 62, 2.1, 1.5)
            self.assertAlmostEqual(got, speed, delta=0.06)
        deposit = deposit_section_mm2(2.1)
        for rod, feed in ((1.1, 410), (1.6, 190)):
            self.assertAlmostEqual(feed_mm_min(deposit, 2.66, rod) / feed, 1, delta=0.05)

    def test_a_larger_leg_is_slower_and_less_diluted(self) -> None:
        legs = [1.5 + i / 10 for i in range(26)]
        speeds = [fillet_travel_mm_s(390.0, leg, 1.5) for leg in legs]
        shares = [fillet_dilution(leg, 1.5) for leg in legs]
        self.assertEqual(speeds, sorted(speeds, reverse=True))
        self.assertEqual(shares, sorted(shares, reverse=True))
        for leg, share in zip(legs, shares, strict=True):
            self.assertAlmostEqual(leg_for_dilution_mm(share, 1.5), leg, places=9)

    def test_sheet_and_pool(self) -> None:
        """Melting efficiency 0.27 from 1.5 mm, 0.14 at 0.8; pool the face and 0.8 mm."""
        self.assertAlmostEqual(melting_efficiency(0.8), 0.14, delta=0.005)
        self.assertEqual([melting_efficiency(t) for t in (1.5, 3.0)], [0.27, 0.27])
        self.assertEqual(melting_efficiency(0.5), melting_efficiency(0.8))
        self.assertAlmostEqual(fillet_pool_mm(2.1), 1.41 * 2.1 + 0.8)
        self.assertEqual(
            [round(default_leg_mm(t), 2) for t in (0.5, 0.8, 1.5, 2.0, 3.0)],
            [1.2, 1.2, 2.1, 2.8, 3.8],
        )
        # the penetration is a quarter of the sheet, within 0.2 to 0.6 mm
        for t, p in ((0.6, 0.2), (1.6, 0.4), (3.2, 0.6)):
            self.assertAlmostEqual(melted_section_mm2(2.0, t), 2 * p * 2.4)

    def test_never_above_the_two_dimensional_ceiling(self) -> None:
        """Wells's melting efficiency in thin plate never exceeds 0.48 (from memory)."""
        self.assertLess(max(melting_efficiency(t / 10) for t in range(3, 60)), 0.48)

    def test_energy_of_melting_by_enthalpy(self) -> None:
        """9.2 J/mm³ at the density near melting, 7.1 g/cm³: 1.3 kJ/g."""
        self.assertAlmostEqual(MELTING_J_MM3 / (1.3 * 7.1), 1, delta=0.05)

    def test_energy_is_conserved(self) -> None:
        """Melting power = section × speed × heat of melting, by hand."""
        power, leg, t = 390.6, 2.1, 1.5
        speed = fillet_travel_mm_s(power, leg, t)
        section = 1.1 * leg * leg / 2 + 2 * 0.25 * t * (leg + 0.4)
        self.assertAlmostEqual(section * speed * 9.2 / power, 0.27, places=9)
        rod = math.pi * 1.2**2 / 4
        self.assertAlmostEqual(feed_mm_min(2.0, speed, 1.2) * rod / 60, 2.0 * speed, places=9)


if __name__ == "__main__":
    unittest.main()
