"""EN 169, welding filter shades for TIG, from memory: 9 to 40 A, 10 to 100, 11 to 175, 12 to 250."""

import unittest

from wisearc.core.choices.harm import shade_for


class Shades(unittest.TestCase):
    def test_table(self) -> None:
        self.assertEqual(
            [shade_for(a) for a in (15, 40, 41, 100, 150, 175, 176, 250, 300)], [9, 9, 10, 10, 11, 11, 12, 12, 13]
        )
