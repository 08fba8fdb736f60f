"""Heat input calculated manually.

ASME IX QW-409.1 (V·I·60 / travel) and EN 1011-1 (× 0.6 for TIG); IEC 60974-1 load line.
"""

import unittest

from wisearc.core.physics.heat import heat_input_en_kj_mm, heat_input_kj_mm, load_line_v


class Codes(unittest.TestCase):
    def test_asme(self) -> None:
        """11 V × 80 A × 60 / 100 mm/min = 528 J/mm."""
        self.assertAlmostEqual(heat_input_kj_mm(11, 80, 100 / 60), 0.528, places=9)

    def test_asme_in_inches(self) -> None:
        """10 V × 100 A × 60 / 4 in/min = 15 000 J/in, which is 0.5906 kJ/mm."""
        self.assertAlmostEqual(heat_input_kj_mm(10, 100, 4 * 25.4 / 60) * 25.4, 15.0, places=9)

    def test_en(self) -> None:
        """0.6 × 11 × 80 × 10⁻³ / 1.6667 mm/s = 0.3168 kJ/mm."""
        self.assertAlmostEqual(heat_input_en_kj_mm(11, 80, 100 / 60), 0.3168, places=9)

    def test_load_line(self) -> None:
        """IEC 60974-1 for TIG, from memory: 10 + 0.04 I; 14 V at 100 A, 12 V at 50 A."""
        self.assertEqual(load_line_v(100), 14.0)
        self.assertEqual(load_line_v(50), 12.0)
