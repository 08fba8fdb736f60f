"""ANSI Z49.1 / OSHA 1910.252: minimum filter shade for TIG, and the recommended start, from memory.

A standard of another country than EN 169, the source of the product. The shades must lie between
the minimum and the recommended start.
"""

import unittest

from wisearc.core.plan.preparation.safety import choose_shade

# Up to A: minimum, recommended start.
ROWS = ((49, 8, 10), (149, 8, 12), (500, 10, 14))


class Shades(unittest.TestCase):
    def test_between_minimum_and_first_value(self) -> None:
        for amps in range(5, 301, 5):
            least, first = next((low, high) for top, low, high in ROWS if amps <= top)
            with self.subTest(amps=amps):
                self.assertTrue(least <= choose_shade(amps) <= first, choose_shade(amps))

    def test_more_current_is_never_lighter(self) -> None:
        shades = [choose_shade(amps) for amps in range(5, 301)]
        self.assertEqual(shades, sorted(shades))
