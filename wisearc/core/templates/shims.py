"""Shims under tubes of different diameters on a flat table, stacked from the sizes at hand.

The shim is half the difference of the diameters: geometry, exact. How level is level enough is an
estimate.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from msgspec import Struct

from ..errors import InputError
from ..quantities import get_typed_unit
from ..schema import checks
from ..typed_quantities import parse_length, split_sizes

# A stack within this of the shim is level, mm: estimate, a tenth of the thinnest sheet.
LEVEL_MM = 0.1
MAX_STOCK, MAX_PIECES, MAX_COUNT, MAX_SHIM_MM = 12, 12, 50, 100.0
# Sizes are compared in steps of this, mm.
STEP_MM = 0.01
_COUNT = re.compile(r"^(.*\S)\s*[x×]\s*(\d{1,3})$|^(\d{1,3})\s*[x×]\s*(\S.*)$")


class ShimStock(Struct, frozen=True):
    """Pieces of one size: mm, the count or None for any number, and the typed text."""

    mm: float
    count: int | None
    text: str


class Stack(Struct, frozen=True):
    """A stack of shims: pieces by size with their number, its height and the shim needed, mm."""

    pieces: tuple[tuple[ShimStock, int], ...]
    height_mm: float
    needed_mm: float

    @property
    def off_mm(self) -> float:
        """Return the height above the needed shim, mm."""
        return self.height_mm - self.needed_mm

    @property
    def is_level(self) -> bool:
        """Return whether the stack is close enough."""
        return abs(self.off_mm) <= LEVEL_MM + STEP_MM / 2


def read_shim_stock(text: str, units: str) -> tuple[ShimStock, ...]:
    """Parse sizes at hand, such as "0.5, 1 x 4, 1/8 in".

    Args:
        text: Sizes separated by semicolons or by commas with a space, each with its count.
        units: Unit system of numbers without unit.

    Raises:
        InputError: A size is wrong.
    """
    parts = split_sizes(text)
    if len(parts) > MAX_STOCK:
        raise InputError("stock", f"{len(parts)} of them", f"are more than {MAX_STOCK}")
    stock = []
    for part in parts:
        match = _COUNT.match(part)
        size, count = (match[1] or match[4], match[2] or match[3]) if match else (part, None)
        mm = parse_length(size, "stock", bare_unit=get_typed_unit("length", units)).mm
        checks.check_number("stock", mm, 0.05, 100, "mm")
        stock.append(ShimStock(mm, min(MAX_COUNT, int(count)) if count else None, size))
    return tuple(sorted(stock, key=lambda piece: -piece.mm))


def stack_shims(needed_mm: float, stock: Sequence[ShimStock]) -> Stack:
    """Return the level stack with the fewest pieces, or the nearest stack if none is level.

    Args:
        needed_mm: The shim, mm.
        stock: The sizes at hand.

    Raises:
        OutOfRange: The shim is too thick.
    """
    checks.check_number("shim", needed_mm, 0, MAX_SHIM_MM, "mm")
    limit = round((needed_mm + max((piece.mm for piece in stock), default=0.0)) / STEP_MM)
    # Fewest pieces for each height, and how each height is reached: the size added last.
    best: dict[int, tuple[int, ...]] = {0: (0,) * len(stock)}
    for index, piece in enumerate(stock):
        step = max(1, round(piece.mm / STEP_MM))
        most = piece.count if piece.count is not None else MAX_PIECES
        for height, counts in list(best.items()):
            for number in range(1, most + 1):
                reached = height + number * step
                if reached > limit or sum(counts) + number > MAX_PIECES:
                    break
                added = (*counts[:index], number, *counts[index + 1 :])
                if reached not in best or sum(added) < sum(best[reached]):
                    best[reached] = added
    target = needed_mm / STEP_MM
    slack = LEVEL_MM / STEP_MM

    def rate(height: int) -> tuple[float, int, float]:
        off = abs(height - target)
        return (max(0.0, off - slack), sum(best[height]), off)

    height = min(best, key=rate)
    pieces = tuple(
        (piece, number) for piece, number in zip(stock, best[height], strict=True) if number
    )
    exact_mm = sum(piece.mm * number for piece, number in pieces)
    return Stack(pieces, exact_mm, needed_mm)
