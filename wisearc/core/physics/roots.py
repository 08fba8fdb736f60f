"""Roots of the curves of heat."""

from collections.abc import Callable


def find_crossing(
    limit: float,
    curve: Callable[[float], float],
    low: float,
    high: float,
    tolerance: float = 1e-4,
) -> float:
    """Return where a falling curve passes a limit, or an end if it does not.

    Illinois method (false position).

    Args:
        limit: The limit.
        curve: The falling function.
        low: Start of the interval.
        high: End of the interval.
        tolerance: Maximum error of the value, as a fraction of the limit.
    """
    over, under = curve(low) - limit, curve(high) - limit
    if not over > 0 >= under:
        return low if over <= 0 else high
    at, side = low, 0
    for _ in range(40):
        at = (low * under - high * over) / (under - over)
        value = curve(at) - limit
        if abs(value) < tolerance * abs(limit):
            break
        if value > 0:
            low, over, under, side = at, value, under / 2 if side > 0 else under, 1
        else:
            high, under, over, side = at, value, over / 2 if side < 0 else over, -1
    return at
