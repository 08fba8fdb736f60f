"""Stacks of shims: level, few pieces, from the pieces at hand; in the typed unit."""

import itertools
import unittest

from wisearc.core.errors import InputError
from wisearc.core.templates.shims import (
    LEVEL_MM,
    ShimStock,
    read_shim_stock,
    stack_shims,
)
from wisearc.core.typed_quantities import is_typed_in_inches
from wisearc.presenters.cut import calculate_shims

STOCK = (0.5, 1.0, 1.2, 3.0)


def stock(*sizes: float, count: int | None = None) -> list[ShimStock]:
    return [ShimStock(mm, count, f"{mm:g} mm") for mm in sizes]


class Stacks(unittest.TestCase):
    def test_level_stack_with_the_fewest_pieces(self) -> None:
        """Every stack of up to four pieces is tried in another way: none is level with fewer."""
        heights = {
            number: [sum(way) for way in itertools.combinations_with_replacement(STOCK, number)]
            for number in range(1, 5)
        }
        for tenths in range(4, 90, 3):
            needed = tenths / 10
            stack = stack_shims(needed, stock(*STOCK))
            pieces = sum(number for _, number in stack.pieces)
            level = [
                number
                for number, reached in heights.items()
                if any(abs(height - needed) <= LEVEL_MM + 1e-9 for height in reached)
            ]
            if level:
                self.assertTrue(stack.is_level, needed)
                self.assertEqual(pieces, min(level), needed)
                self.assertLessEqual(abs(stack.height_mm - needed), LEVEL_MM + 1e-9)

    def test_counts_are_not_exceeded(self) -> None:
        stack = stack_shims(9.0, stock(3.0, 1.0, count=2))
        self.assertEqual([(p.mm, n) for p, n in stack.pieces], [(3.0, 2), (1.0, 2)])
        self.assertFalse(stack.is_level)
        self.assertAlmostEqual(stack.off_mm, -1.0)
        self.assertEqual(stack_shims(5.0, []).pieces, ())
        self.assertEqual(stack_shims(0.0, stock(1.0)).pieces, ())

    def test_level_to_a_tenth_of_a_millimetre(self) -> None:
        """A tenth of a millimetre: estimate. A hundredth more is not level."""
        for piece, level in ((1.0, True), (0.9, True), (1.1, True), (0.89, False), (1.11, False)):
            self.assertEqual(stack_shims(1.0, stock(piece, count=1)).is_level, level, piece)
        # Two pieces that are level come before three that are exact.
        pair = stack_shims(2.0, stock(0.95, 0.5, 0.1))
        self.assertEqual([(p.mm, n) for p, n in pair.pieces], [(0.95, 2)])
        # Both are level: the smaller error decides.
        near = stack_shims(1.0, stock(1.08, 1.03))
        self.assertEqual([p.mm for p, _ in near.pieces], [1.03])
        # A stack can be one piece above the shim, if that is the nearest.
        self.assertAlmostEqual(stack_shims(2.6, stock(3.0)).off_mm, 0.4)

    def test_limits_of_a_stack(self) -> None:
        twelve = stack_shims(30.0, stock(1.0))
        self.assertEqual([n for _, n in twelve.pieces], [12])
        mixed = stack_shims(30.0, stock(1.0, 0.98))
        self.assertEqual(sum(n for _, n in mixed.pieces), 12)
        self.assertEqual(stack_shims(100.0, stock(100.0)).height_mm, 100.0)
        with self.assertRaises(InputError):
            stack_shims(100.5, stock(100.0))
        ((thin, number),) = stack_shims(0.12, stock(0.05)).pieces
        self.assertEqual((thin.mm, number), (0.05, 1))
        self.assertEqual(len(read_shim_stock(", ".join(["1"] * 12), "mm")), 12)
        self.assertEqual(read_shim_stock("1 x 60", "mm")[0].count, 50)
        self.assertEqual(read_shim_stock("1 x 50", "mm")[0].count, 50)
        for size, allowed in (("0.05", True), ("0.049", False), ("100", True), ("101", False)):
            with self.subTest(size):
                if allowed:
                    self.assertEqual(len(read_shim_stock(size, "mm")), 1)
                else:
                    with self.assertRaises(InputError):
                        read_shim_stock(size, "mm")

    def test_typed_stock(self) -> None:
        sizes = read_shim_stock("0.5, 3 x 2; 1/16 in, 4 x 1 mm", "mm")
        self.assertEqual(
            [(round(size.mm, 4), size.count) for size in sizes],
            [(3.0, 2), (1.5875, None), (1.0, 4), (0.5, None)],
        )
        for text in ("thick", "0", ", ".join(["1"] * 13)):
            with self.assertRaises(InputError):
                read_shim_stock(text, "mm")

    def test_each_row_in_its_typed_unit(self) -> None:
        self.assertFalse(is_typed_in_inches("51", "mm"))
        self.assertTrue(is_typed_in_inches("2", "in"))
        rows = calculate_shims("51 mm, 1 1/2 in, 25", "10, 3, 5, 1.5", "mm")
        self.assertEqual([row.tube for row in rows], ["51 mm", "1.5 in", "25 mm"])
        self.assertEqual([row.shim for row in rows], ["none", "0.254 in", "13 mm"])
        self.assertEqual([row.stack for row in rows], ["nothing", "5 mm + 1.5 mm", "10 mm + 3 mm"])
        self.assertEqual(rows[2].off, "")
        self.assertTrue(rows[1].off.endswith(" in"))
