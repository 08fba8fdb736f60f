"""Joints and shops of the rows."""

from typing import Any

from tests.samples import member, tube
from wisearc.core.shop.shop import (
    Machine,
    OwnTorch,
    Shop,
)

# code, level, answer; kind of joint; data with the caution; data just without it
Row = tuple[str, str, str, str, dict[str, Any], dict[str, Any]]
Pair = tuple[dict[str, Any], dict[str, Any]]
MILD, DUPLEX = member("mild-steel"), member("2205")
ROUND = {"a": tube(wall="1.5 mm", diameter="51 mm"), "length": "all-round"}
FLANGED = {"a": tube(), "length": "all-round"}
COPE = {"a": tube(), "b": tube(wall="1.5 mm", diameter="51 mm"), "length": "all-round"}
LONG_GAP = {"back": "purge", "length": "20000 mm", "gap_mm": 0.3}
PULSED = {"pulse": "slow-cold", "length": "300 mm"}
MACHINE = {"control": "none"}
NINE = Shop(torches=(OwnTorch("slim", "9"),))
NO_PULSE = Shop(machines=(Machine("plain 200", pulse=None),))


def rows(head: str, *pairs: Pair) -> tuple[Row, ...]:
    """Build the rows of one caution.

    Args:
        head: Code, level, answer and kind of joint, separated by spaces.
        pairs: Data of a joint with the caution, and of one just without it.
    """
    code, level, answer, kind = head.split()
    return tuple((code, level, answer, kind, *pair) for pair in pairs)


def on(**machine: Any) -> Shop:
    """A shop of one machine."""
    return Shop(machines=(Machine("m", **machine),))


def shelf(**lists: Any) -> Shop:
    """A shop of which only these lists were entered."""
    return Shop(**lists)


def of(t: str) -> dict[str, Any]:
    """A sheet of a thickness."""
    return member(thickness=t)


def carbon_sheet(t: str) -> dict[str, Any]:
    """A sheet of mild steel of a thickness."""
    return member("mild-steel", thickness=t)


def pins(**values: Any) -> dict[str, Any]:
    """A joint's pins."""
    return {"pins": values}


def both(first: dict[str, Any], **more: Any) -> dict[str, Any]:
    """A joint's data with pins, or anything, beside it."""
    return {**first, **more}
