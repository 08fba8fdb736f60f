"""ANSI Z49.1 / OSHA 1910.252: least filter shade for TIG, and the one to begin with, from memory.

A national standard of another country than the one the product's shades come from (EN 169): the
product may not go under its least, nor be darker than what it begins with.
"""

import unittest

from wisearc.core.plan.preparation.safety import choose_shade

# up to A: least, to begin with
ROWS = ((49, 8, 10), (149, 8, 12), (500, 10, 14))


class Shades(unittest.TestCase):
    def test_not_under_the_least_nor_over_the_first(self) -> None:
        for amps in range(5, 301, 5):
            least, first = next((low, high) for top, low, high in ROWS if amps <= top)
            with self.subTest(amps=amps):
                self.assertTrue(least <= choose_shade(amps) <= first, choose_shade(amps))

    def test_more_current_is_never_lighter(self) -> None:
        shades = [choose_shade(amps) for amps in range(5, 301)]
        self.assertEqual(shades, sorted(shades))
